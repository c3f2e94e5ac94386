import { alike } from '../trail/canonical';
import {
  type Assignment,
  type Copies,
  copiesOf,
  type Parallel,
  partsOf,
  type Route,
  type Seat,
  type Series,
  type Stage,
  stagesOf,
  type Time,
} from './route';
import type { Rule } from './tally';
import type { Verb } from './verbs';

/** What of a stage can be changed and is told by name. */
export type StagePart =
  | 'verb'
  | 'order'
  | 'earliest'
  | 'condition'
  | 'onReturn'
  | 'onDecline'
  | 'independentOf'
  | 'allows';

/** One difference between two routes, with all that a sentence about it needs; a stage by what it asks and its place. */
export type RouteDifference = { readonly verb: Verb | null; readonly place: number } & (
  | { readonly what: 'stageAdded' | 'stageRemoved'; readonly who: readonly Assignment[] }
  | { readonly what: 'stageMoved' }
  | { readonly what: 'seatAdded' | 'seatRemoved' | 'seatFiles' | 'seatMoved'; readonly who: readonly Assignment[] }
  | { readonly what: 'seatGiven'; readonly who: readonly Assignment[]; readonly before: Assignment }
  | { readonly what: 'rule'; readonly from: Rule; readonly to: Rule }
  | {
      readonly what: 'due' | 'closes';
      readonly who: readonly Assignment[];
      readonly from: Time | null;
      readonly to: Time | null;
    }
  | { readonly what: 'part'; readonly part: StagePart }
  | { readonly what: 'branchAdded' | 'branchRemoved' | 'branchChanged' | 'join'; readonly name: string }
  | {
      readonly what: 'copiesAdded' | 'copiesRemoved' | 'copiesChanged';
      readonly who: readonly Assignment[];
      readonly hidden: boolean;
    }
);

/** Every difference between a route and what it becomes, in reading order; none exactly when they are the same. */
export function routeDifferences(before: Series, after: Series): RouteDifference[] {
  const found: RouteDifference[] = [];
  const [old, next] = [stagesOf(before), stagesOf(after)];
  const at = (stages: readonly Stage[], stage: Stage) => ({ verb: stage.verb, place: stages.indexOf(stage) + 1 });
  const oldSeats = new Map(old.flatMap((stage) => stage.seats.map((seat) => [seat.id, { seat, stage }] as const)));
  const nextSeats = new Map(next.flatMap((stage) => stage.seats.map((seat) => [seat.id, { seat, stage }] as const)));
  for (const stage of old)
    if (!next.some(({ id }) => id === stage.id))
      found.push({ ...at(old, stage), what: 'stageRemoved', who: stage.seats.map(({ assignment }) => assignment) });
  for (const stage of next) {
    const was = old.find(({ id }) => id === stage.id);
    if (!was) {
      found.push({ ...at(next, stage), what: 'stageAdded', who: stage.seats.map(({ assignment }) => assignment) });
      continue;
    }
    const place = at(next, stage);
    if (!alike(contextOf(before, was.id), contextOf(after, stage.id))) found.push({ ...place, what: 'stageMoved' });
    for (const part of [
      'verb',
      'order',
      'earliest',
      'condition',
      'onReturn',
      'onDecline',
      'independentOf',
      'allows',
    ] as const)
      if (!alike(was[part], stage[part])) found.push({ ...place, what: 'part', part });
    if (!alike(was.rule, stage.rule)) found.push({ ...place, what: 'rule', from: was.rule, to: stage.rule });
    for (const what of ['due', 'closes'] as const)
      if (!alike(was[what], stage[what])) found.push({ ...place, what, who: [], from: was[what], to: stage[what] });
    for (const seat of was.seats)
      if (!nextSeats.has(seat.id)) found.push({ ...place, what: 'seatRemoved', who: [seat.assignment] });
    for (const seat of stage.seats) {
      const there = oldSeats.get(seat.id);
      const who = [seat.assignment];
      if (!there) {
        found.push({ ...place, what: 'seatAdded', who });
        continue;
      }
      if (there.stage.id !== stage.id) found.push({ ...place, what: 'seatMoved', who });
      if (!alike(there.seat.assignment, seat.assignment))
        found.push({ ...place, what: 'seatGiven', who, before: there.seat.assignment });
      const decidesOn = ({ files, pages, facts }: Seat) => [files, pages, facts];
      if (!alike(decidesOn(there.seat), decidesOn(seat))) found.push({ ...place, what: 'seatFiles', who });
      for (const what of ['due', 'closes'] as const)
        if (!alike(there.seat[what], seat[what]))
          found.push({ ...place, what, who, from: there.seat[what], to: seat[what] });
    }
    const order = ({ seats }: Stage, other: Stage) =>
      seats.map(({ id }) => id).filter((id) => other.seats.some((seat) => seat.id === id));
    if (!alike(order(was, stage), order(stage, was))) found.push({ ...place, what: 'seatMoved', who: [] });
  }
  found.push(...ofBranches(before, after), ...ofCopies(before, after));
  // What stands in both and only in another order.
  const order = (route: Series, other: Series) => {
    const there = new Set(partsOf(other).map(({ id }) => id));
    return partsOf(route).flatMap(({ id }) => (there.has(id) ? [id] : []));
  };
  const told = found.some(({ what }) => what === 'stageMoved');
  const moved = !alike(order(before, after), order(after, before)) || (found.length === 0 && !alike(before, after));
  if (moved && !told) found.push({ verb: null, place: 0, what: 'stageMoved' });
  return found;
}

/** Where a stage stands: the series round it, and what comes before it in its own, of what both routes have. */
function contextOf(route: Series, id: string): readonly string[] {
  const path = (part: Route): string[] | null => {
    if (part.kind === 'stage') return part.id === id ? [] : null;
    if (part.kind === 'copies') return null;
    const inner = part.kind === 'series' ? part.parts : part.branches.map((branch) => branch.route);
    for (const one of inner) {
      const found = path(one);
      if (found) return [part.id, ...found];
    }
    return null;
  };
  return path(route) ?? [];
}

const parallelsOf = (route: Series): Parallel[] => partsOf(route).filter((part) => part.kind === 'parallel');

function ofBranches(before: Series, after: Series): RouteDifference[] {
  const none = { verb: null, place: 0 } as const;
  const branches = (route: Series) => parallelsOf(route).flatMap((parallel) => parallel.branches);
  const [old, next] = [branches(before), branches(after)];
  const found: RouteDifference[] = [];
  for (const branch of old)
    if (!next.some(({ route }) => route.id === branch.route.id))
      found.push({ ...none, what: 'branchRemoved', name: branch.name });
  for (const branch of next) {
    const was = old.find(({ route }) => route.id === branch.route.id);
    if (!was) found.push({ ...none, what: 'branchAdded', name: branch.name });
    else if (was.name !== branch.name || !alike(was.condition, branch.condition))
      found.push({ ...none, what: 'branchChanged', name: branch.name });
  }
  for (const parallel of parallelsOf(after)) {
    const was = parallelsOf(before).find(({ id }) => id === parallel.id);
    if (was && !alike([was.join, was.name], [parallel.join, parallel.name]))
      found.push({ ...none, what: 'join', name: parallel.name });
  }
  return found;
}

function ofCopies(before: Series, after: Series): RouteDifference[] {
  const who = ({ to }: Copies) => to.map(({ assignment }) => assignment);
  const of = (board: Copies) => ({ verb: null, place: 0, who: who(board), hidden: board.hidden });
  const [old, next] = [copiesOf(before), copiesOf(after)];
  return [
    ...old
      .filter(({ id }) => !next.some((one) => one.id === id))
      .map((one) => ({ ...of(one), what: 'copiesRemoved' as const })),
    ...next.flatMap((board): RouteDifference[] => {
      const was = old.find(({ id }) => id === board.id);
      if (!was) return [{ ...of(board), what: 'copiesAdded' }];
      return alike(was, board) ? [] : [{ ...of(board), what: 'copiesChanged', hidden: board.hidden || was.hidden }];
    }),
  ];
}
