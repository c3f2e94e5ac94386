import type { Field } from '../page/fields';
import { unreachable } from '../unreachable';
import { type Condition, comparisonsIn } from './condition';
import {
  type Assignment,
  type Branch,
  type Copies,
  type Route,
  type Seat,
  type Series,
  type Stage,
  seatsOf,
  stagesOf,
} from './route';

/**
 * What in a plan points to another part of it. Nothing else knows: whoever renames, removes, checks or copies parts asks
 * here, so that a pointer of another kind is one more case of `mapReferences`.
 */
type Reference =
  /** A seat, or an entry of a board, whose person the holder of a seat names. */
  | { readonly kind: 'namedBy'; readonly from: string; readonly to: string }
  /** A stage that needs other people than another. */
  | { readonly kind: 'independentOf'; readonly from: string; readonly to: string }
  /** A stage whose earliest time counts from when another has ended. */
  | { readonly kind: 'earliestAfter'; readonly from: string; readonly to: string }
  /** A stage, or a branch by its series, whose condition asks how a stage has ended. */
  | { readonly kind: 'outcomeOf'; readonly from: string; readonly to: string };

/** Gives what a pointer points to from now on; null takes it away. */
type Change = (reference: Reference) => string | null;

/**
 * The route with every pointer changed. What loses one: a seat or an entry of a board whose namer goes is removed, a stage
 * is no longer independent, its wait and a condition that asks for what is gone are dropped whole.
 */
export function mapReferences(route: Series, change: Change): Series {
  return { ...route, parts: route.parts.map((part) => changedPart(part, change)) };
}

function changedPart(part: Route, change: Change): Route {
  switch (part.kind) {
    case 'stage':
      return changedStage(part, change);
    case 'copies':
      return { ...part, to: kept(part.to, change) };
    case 'series':
      return mapReferences(part, change);
    case 'parallel':
      return { ...part, branches: part.branches.map((branch) => changedBranch(branch, change)) };
    default:
      return unreachable(part, 'part');
  }
}

function changedBranch(branch: Branch, change: Change): Branch {
  const condition = branch.condition && changedCondition(branch.route.id, branch.condition, change);
  return { ...branch, condition, route: mapReferences(branch.route, change) };
}

function changedStage(stage: Stage, change: Change): Stage {
  const { id, earliest, condition } = stage;
  return {
    ...stage,
    seats: kept(stage.seats, change),
    independentOf: stage.independentOf.flatMap((to) => change({ kind: 'independentOf', from: id, to }) ?? []),
    earliest: earliest && changedEarliest(id, earliest, change),
    condition: condition && changedCondition(id, condition, change),
  };
}

function changedEarliest(from: string, earliest: NonNullable<Stage['earliest']>, change: Change): Stage['earliest'] {
  if (earliest.kind === 'date' || typeof earliest.from === 'string') return earliest;
  const stage = change({ kind: 'earliestAfter', from, to: earliest.from.stage });
  return stage === null ? null : { ...earliest, from: { stage } };
}

/** The seats of a stage or the entries of a board, without those whose namer goes. */
function kept<E extends { readonly id: string; readonly assignment: Assignment }>(
  entries: readonly E[],
  change: Change,
): E[] {
  return entries.flatMap((entry) => {
    if (entry.assignment.kind !== 'named') return [entry];
    const by = change({ kind: 'namedBy', from: entry.id, to: entry.assignment.by });
    return by === null ? [] : [{ ...entry, assignment: { kind: 'named', by } }];
  });
}

function changedCondition(from: string, condition: Condition, change: Change): Condition | null {
  const to = new Map<string, string | null>();
  for (const part of comparisonsIn(condition))
    if (part.kind === 'outcome') to.set(part.stage, change({ kind: 'outcomeOf', from, to: part.stage }));
  if ([...to.values()].includes(null)) return null;
  const inner = (part: Condition): Condition => {
    switch (part.kind) {
      case 'all':
      case 'any':
        return { ...part, of: part.of.map(inner) };
      case 'not':
        return { ...part, of: inner(part.of) };
      case 'outcome':
        return { ...part, stage: to.get(part.stage) ?? part.stage };
      case 'fact':
      case 'record':
        return part;
      default:
        return unreachable(part, 'condition');
    }
  };
  return inner(condition);
}

/** Every pointer of a route, in reading order. */
export function referencesOf(route: Series): Reference[] {
  const found: Reference[] = [];
  mapReferences(route, (reference) => {
    found.push(reference);
    return reference.to;
  });
  return found;
}

/** Pointers to what is not there: a seat or a stage that was removed, or never was. */
export function danglingIn(route: Series): Reference[] {
  const stages = stagesOf(route);
  const there = new Set(stages.flatMap(({ id, seats }) => [id, ...seats.map((seat) => seat.id)]));
  return referencesOf(route).filter(({ to }) => !there.has(to));
}

/** Whether the chain of those who name a seat comes to a circle: then nobody ever comes to it. */
export function leadsToCircle(route: Series, seat: string): boolean {
  const namer = new Map(referencesOf(route).flatMap((one) => (one.kind === 'namedBy' ? [[one.from, one.to]] : [])));
  const met = new Set<string>();
  for (let at: string | undefined = seat; at !== undefined; at = namer.get(at)) {
    if (met.has(at)) return true;
    met.add(at);
  }
  return false;
}

/** The seats that could come to nobody once some are gone: those that these name, and those that they name in turn. */
export function namedThrough(route: Series, seats: Iterable<string>): ReadonlySet<string> {
  const gone = new Set(seats);
  const naming = referencesOf(route).filter(({ kind }) => kind === 'namedBy');
  for (let size = -1; size < gone.size; ) {
    size = gone.size;
    for (const { from, to } of naming) if (gone.has(to)) gone.add(from);
  }
  return gone;
}

/** The route with other names for its parts, seats and entries, and its pointers after them. Each name is asked for once. */
export function renamed(route: Series, name: (id: string) => string): Series {
  const names = new Map<string, string>();
  const nameOf = (id: string) => {
    const known = names.get(id) ?? name(id);
    names.set(id, known);
    return known;
  };
  const entries = <E extends Seat | Copies['to'][number]>(list: readonly E[]) =>
    list.map((entry) => ({ ...entry, id: nameOf(entry.id) }));
  const inner = (part: Route): Route => {
    const id = nameOf(part.id);
    switch (part.kind) {
      case 'stage':
        return { ...part, id, seats: entries(part.seats) };
      case 'copies':
        return { ...part, id, to: entries(part.to) };
      case 'series':
        return { ...part, id, parts: part.parts.map(inner) };
      case 'parallel':
        return { ...part, id, branches: part.branches.map((one) => ({ ...one, route: inner(one.route) as Series })) };
      default:
        return unreachable(part, 'part');
    }
  };
  return mapReferences(inner(route) as Series, ({ to }) => nameOf(to));
}

/** The fields of a plan under the new names of its seats; those of seats that are not there are left out. */
export function fieldsRenamed(fields: readonly Field[], route: Series, after: Series): Field[] {
  const renamedTo = seatsOf(after);
  const names = new Map(seatsOf(route).map(({ seat }, i) => [seat.id, renamedTo[i]?.seat.id ?? '']));
  return fields.flatMap((field) => {
    const seat = names.get(field.seat);
    return seat ? [{ ...field, seat }] : [];
  });
}
