import { unreachable } from '../unreachable';
import type { Condition } from './condition';
import { danglingIn, mapReferences } from './references';
import {
  type Allows,
  type Assignment,
  type Branch,
  type Copies,
  copiesOf,
  type Earliest,
  knownSeats,
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

/**
 * Changes to a planned route, as data: what a mouse, a key or the mending of a finding does to it. Ids are the caller's, so
 * that the same change gives the same route.
 */
export type RouteEdit =
  | { readonly do: 'add'; readonly part: Stage | Copies; readonly at: Slot }
  | { readonly do: 'move'; readonly part: string; readonly to: Slot }
  /** Takes a branch out of its fork and puts what stood in it, in its order, at another place. */
  | { readonly do: 'moveBranch'; readonly branch: string; readonly to: Slot }
  /** Removes a stage, a board, a parallel, or a branch by the id of its series. */
  | { readonly do: 'remove'; readonly part: string }
  | { readonly do: 'change'; readonly stage: string; readonly with: StageChange }
  /** Makes a part one of two branches; the new one begins with `stage`. */
  | { readonly do: 'split'; readonly part: string; readonly ids: SplitIds; readonly stage: Stage }
  | { readonly do: 'addBranch'; readonly parallel: string; readonly branch: Branch }
  | {
      readonly do: 'changeBranch';
      readonly branch: string;
      readonly with: { readonly name?: string; readonly condition?: Condition | null };
    }
  | { readonly do: 'changeParallel'; readonly parallel: string; readonly with: { readonly join?: Rule } }
  | { readonly do: 'changeCopies'; readonly copies: string; readonly with: Partial<Pick<Copies, 'to' | 'hidden'>> }
  | { readonly do: 'addSeat'; readonly stage: string; readonly seat: Seat; readonly at?: number }
  | { readonly do: 'moveSeat'; readonly seat: string; readonly to: { readonly stage: string; readonly at: number } }
  | { readonly do: 'changeSeat'; readonly seat: string; readonly with: SeatChange }
  | { readonly do: 'removeSeat'; readonly seat: string };

/** A place between the parts of a series. */
export interface Slot {
  readonly series: string;
  readonly at: number;
}

export interface SplitIds {
  readonly parallel: string;
  readonly first: string;
  readonly second: string;
}

export interface StageChange {
  readonly verb?: Verb;
  readonly order?: Stage['order'];
  readonly rule?: Rule;
  readonly due?: Time | null;
  readonly closes?: Time | null;
  readonly earliest?: Earliest | null;
  readonly condition?: Condition | null;
  readonly onReturn?: Stage['onReturn'];
  readonly onDecline?: Stage['onDecline'];
  readonly independentOf?: Stage['independentOf'];
  readonly allows?: Allows;
}

interface SeatChange {
  readonly assignment?: Assignment;
  readonly files?: Seat['files'];
  readonly pages?: Seat['pages'];
  readonly facts?: Seat['facts'];
  readonly due?: Time | null;
  readonly closes?: Time | null;
}

const none: ReadonlySet<string> = new Set();

/** The route after several changes, one after another. */
export function editedBy(route: Series, edits: readonly RouteEdit[], begun = none): Series {
  return edits.reduce((before, edit) => edited(before, edit, begun), route);
}

/**
 * The route after a change, tidied. What a change names and the route does not have leaves the route as it was. Parallels
 * that have begun, by their ids, stay where they are though one branch is left of them.
 */
export function edited(route: Series, edit: RouteEdit, begun = none): Series {
  switch (edit.do) {
    case 'add':
      return pointing(tidied(inserted(route, edit.at, [edit.part]), begun));
    case 'move':
      return tidied(moved(route, edit.part, edit.to), begun);
    case 'moveBranch':
      return tidied(movedBranch(route, edit.branch, edit.to), begun);
    case 'remove':
      return pointing(tidied(without(route, edit.part), begun));
    case 'change':
      return throughStages(route, (stage) => (stage.id === edit.stage ? fitted({ ...stage, ...edit.with }) : stage));
    case 'split':
      return throughParts(route, (part) =>
        part.id === edit.part && part.kind !== 'copies' ? split(part, edit) : part,
      );
    case 'addBranch':
      return throughParallels(route, (parallel) =>
        parallel.id === edit.parallel ? { ...parallel, branches: [...parallel.branches, edit.branch] } : parallel,
      );
    case 'changeBranch':
      return throughParallels(route, (parallel) => ({
        ...parallel,
        branches: parallel.branches.map((branch) =>
          branch.route.id === edit.branch ? { ...branch, ...edit.with } : branch,
        ),
      }));
    case 'changeParallel':
      return throughParallels(route, (parallel) =>
        parallel.id === edit.parallel ? { ...parallel, ...edit.with } : parallel,
      );
    case 'changeCopies':
      return throughParts(route, (part) =>
        part.kind === 'copies' && part.id === edit.copies ? { ...part, ...edit.with } : part,
      );
    case 'addSeat':
      return throughStages(route, (stage) =>
        stage.id === edit.stage
          ? { ...stage, seats: insertedAt(stage.seats, edit.at ?? stage.seats.length, edit.seat) }
          : stage,
      );
    case 'moveSeat':
      return movedSeat(route, edit.seat, edit.to);
    case 'changeSeat':
      return throughStages(route, (stage) =>
        stage.seats.some((seat) => seat.id === edit.seat)
          ? fitted({
              ...stage,
              seats: stage.seats.map((seat) => (seat.id === edit.seat ? { ...seat, ...edit.with } : seat)),
            })
          : stage,
      );
    case 'removeSeat':
      return throughStages(route, (stage) =>
        stage.seats.some((seat) => seat.id === edit.seat)
          ? fitted({ ...stage, seats: stage.seats.filter((seat) => seat.id !== edit.seat) })
          : stage,
      );
    default:
      return unreachable(edit, 'edit');
  }
}

/** The route in which no stage is independent of one that is not there. */
function pointing(route: Series): Series {
  const lost = danglingIn(route).filter(({ kind }) => kind === 'independentOf');
  if (lost.length === 0) return route;
  const gone = new Set(lost.map(({ to }) => to));
  return mapReferences(route, ({ kind, to }) => (kind === 'independentOf' && gone.has(to) ? null : to));
}

const insertedAt = <T>(list: readonly T[], at: number, item: T): T[] => [...list.slice(0, at), item, ...list.slice(at)];

/** A stage whose rule still fits its seats. */
function fitted(stage: Stage): Stage {
  const { rule } = stage;
  const n = knownSeats(stage);
  if (rule.kind !== 'atLeast' || n === null || rule.k <= n) return stage;
  return { ...stage, rule: n > 0 ? { kind: 'atLeast', k: n } : { kind: 'all' } };
}

/** The route with `change` applied to every part of it but the root, inner parts first. */
function throughParts(series: Series, change: (part: Route) => Route): Series {
  return {
    ...series,
    parts: series.parts.map((part) => {
      if (part.kind === 'series') return change(throughParts(part, change));
      if (part.kind !== 'parallel') return change(part);
      return change({
        ...part,
        branches: part.branches.map((branch) => ({ ...branch, route: throughParts(branch.route, change) })),
      });
    }),
  };
}

const throughStages = (route: Series, change: (stage: Stage) => Stage) =>
  throughParts(route, (part) => (part.kind === 'stage' ? change(part) : part));

const throughParallels = (route: Series, change: (parallel: Parallel) => Parallel) =>
  throughParts(route, (part) => (part.kind === 'parallel' ? change(part) : part));

/** The route with `change` applied to every series in it, inner ones first. */
function throughSeries(series: Series, change: (series: Series) => Series): Series {
  const parts = series.parts.map((part): Route => {
    if (part.kind === 'series') return throughSeries(part, change);
    if (part.kind !== 'parallel') return part;
    return {
      ...part,
      branches: part.branches.map((branch) => ({ ...branch, route: throughSeries(branch.route, change) })),
    };
  });
  return change({ ...series, parts });
}

function inserted(route: Series, { series, at }: Slot, parts: readonly Route[]): Series {
  return throughSeries(route, (own) =>
    own.id === series ? { ...own, parts: [...own.parts.slice(0, at), ...parts, ...own.parts.slice(at)] } : own,
  );
}

function without(route: Series, id: string): Series {
  const series = throughSeries(route, (own) => ({ ...own, parts: own.parts.filter((part) => part.id !== id) }));
  return throughParallels(series, (parallel) => ({
    ...parallel,
    branches: parallel.branches.filter((branch) => branch.route.id !== id),
  }));
}

/** A part of the route by its id, and where it stands. */
export function findPart(route: Series, id: string): { readonly part: Route; readonly slot: Slot } | null {
  for (const [at, part] of route.parts.entries()) {
    if (part.id === id) return { part, slot: { series: route.id, at } };
    const inner =
      part.kind === 'series' ? [part] : part.kind === 'parallel' ? part.branches.map((branch) => branch.route) : [];
    for (const series of inner) {
      const found = findPart(series, id);
      if (found) return found;
    }
  }
  return null;
}

/** Moves a part to a place, which is counted before the part is taken out; nothing moves into itself. */
function moved(route: Series, id: string, to: Slot): Series {
  const found = findPart(route, id);
  if (!found || holdsSeries(found.part, to.series)) return route;
  const { part, slot } = found;
  const at = slot.series === to.series && slot.at < to.at ? to.at - 1 : to.at;
  return inserted(without(route, id), { series: to.series, at }, [part]);
}

function movedBranch(route: Series, id: string, to: Slot): Series {
  const branch = partsOf(route)
    .flatMap((part) => (part.kind === 'parallel' ? part.branches : []))
    .find((one) => one.route.id === id);
  if (!branch || holdsSeries(branch.route, to.series)) return route;
  const { condition } = branch;
  const own = condition
    ? throughStages(branch.route, (stage) => ({ ...stage, condition: both(condition, stage.condition) }))
    : branch.route;
  return without(inserted(route, to, [{ ...own, id: `${id}-moved` }]), id);
}

function holdsSeries(part: Route, series: string): boolean {
  if (part.id === series) return true;
  if (part.kind === 'series') return part.parts.some((inner) => holdsSeries(inner, series));
  return part.kind === 'parallel' && part.branches.some((branch) => holdsSeries(branch.route, series));
}

function split(part: Stage | Series | Parallel, { ids, stage }: Extract<RouteEdit, { do: 'split' }>): Parallel {
  const branch = (id: string, parts: readonly Route[]): Branch => ({
    name: '',
    condition: null,
    route: { kind: 'series', id, parts },
  });
  return {
    kind: 'parallel',
    id: ids.parallel,
    name: '',
    join: { kind: 'all' },
    branches: [branch(ids.first, [part]), branch(ids.second, [stage])],
  };
}

function movedSeat(route: Series, id: string, to: { readonly stage: string; readonly at: number }): Series {
  let seat: Seat | undefined;
  let from: Stage | undefined;
  throughStages(route, (stage) => {
    const own = stage.seats.find((candidate) => candidate.id === id);
    if (own) [seat, from] = [own, stage];
    return stage;
  });
  if (!seat || !from) return route;
  const moving = seat;
  const before = from.seats.indexOf(moving);
  const at = from.id === to.stage && before < to.at ? to.at - 1 : to.at;
  return throughStages(route, (stage) => {
    const rest = stage.seats.filter((own) => own.id !== id);
    if (stage.id === to.stage) return fitted({ ...stage, seats: insertedAt(rest, at, moving) });
    return rest.length < stage.seats.length ? fitted({ ...stage, seats: rest }) : stage;
  });
}

/**
 * The route without what editing may leave behind: branches in which no stage stands any more, parallels of one branch
 * (but for those that have begun), series inside series. Boards of such a branch come behind its parallel; the condition of a branch that stays alone goes to
 * each of its stages.
 */
function tidied(route: Series, begun: ReadonlySet<string>): Series {
  return throughSeries(route, (series) => ({
    ...series,
    parts: series.parts.flatMap((part) => tidiedPart(part, begun)),
  }));
}

function tidiedPart(part: Route, begun: ReadonlySet<string>): readonly Route[] {
  if (part.kind === 'series') return part.parts;
  if (part.kind !== 'parallel') return [part];
  const branches = part.branches.filter((branch) => stagesOf(branch.route).length > 0);
  const boards = part.branches.filter((branch) => !branches.includes(branch)).flatMap(({ route }) => copiesOf(route));
  const [only] = branches;
  if (!only) return boards;
  if (branches.length > 1 || begun.has(part.id)) {
    const { join } = part;
    const fits = join.kind !== 'atLeast' || join.k <= branches.length;
    return [{ ...part, branches, join: fits ? join : { kind: 'all' } }, ...boards];
  }
  const { condition } = only;
  const alone = condition
    ? throughStages(only.route, (stage) => ({ ...stage, condition: both(condition, stage.condition) }))
    : only.route;
  return [...alone.parts, ...boards];
}

const both = (one: Condition, other: Condition | null): Condition => (other ? { kind: 'all', of: [one, other] } : one);

/** The place right behind a part, or at the end of the route. */
export function slotAfter(route: Series, id: string | null): Slot {
  const found = id === null ? null : findPart(route, id);
  return found ? { series: found.slot.series, at: found.slot.at + 1 } : { series: route.id, at: route.parts.length };
}

/**
 * The seats that are asked as soon as the route is sent: of the first stage that takes part, or of the first of each
 * branch that does. `holds` decides conditions as they would be decided now.
 */
export function firstAsked(
  route: Route,
  holds: (condition: Condition) => boolean = () => true,
): { readonly stage: Stage; readonly seat: Seat }[] {
  switch (route.kind) {
    case 'copies':
      return [];
    case 'stage': {
      if (route.condition && !holds(route.condition)) return [];
      const first = route.order === 'together' ? route.seats : route.seats.slice(0, 1);
      return first.map((seat) => ({ stage: route, seat }));
    }
    case 'parallel':
      return route.branches.flatMap((branch) =>
        branch.condition && !holds(branch.condition) ? [] : firstAsked(branch.route, holds),
      );
    case 'series':
      for (const part of route.parts) {
        const found = firstAsked(part, holds);
        if (found.length > 0) return found;
      }
      return [];
    default:
      return unreachable(route, 'part');
  }
}
