import { planned } from './tally';

/**
 * The route of a circulation: a well-nested tree of stages. Because series and parallels nest properly and
 * nothing jumps, a route can always finish.
 */
export type Verb = 'contribute' | 'review' | 'approve' | 'sign' | 'read';

/** How many positive outcomes end a stage, or how many finished branches end a parallel. */
export type Rule =
  | { readonly kind: 'all' }
  | { readonly kind: 'any' }
  | { readonly kind: 'atLeast'; readonly k: number };

/** An instant in whole milliseconds since 1970, UTC. */
export type Instant = number;

/** When something is due or closes: an instant. Events carry instants computed from it. */
export type Time = { readonly kind: 'instant'; readonly at: Instant };

/** The instant a time of the plan means. */
export function instantOf(time: Time | null): Instant | null {
  return time === null ? null : time.at;
}

/** The time of the plan that is this instant. */
export function atInstant(at: Instant | null): Time | null {
  return at === null ? null : { kind: 'instant', at };
}

/** Who a seat is planned for. An outside person has no account and is reached by a link of their own. */
export type Assignment =
  | { readonly kind: 'person'; readonly person: string }
  | { readonly kind: 'outside'; readonly person: string };

export interface Seat {
  readonly id: string;
  readonly assignment: Assignment;
  /** The files of the bundle that the seat decides on, by their ids; all of them unless some are named. */
  readonly files: 'all' | readonly string[];
}

export interface Stage {
  readonly kind: 'stage';
  readonly id: string;
  readonly verb: Verb;
  readonly seats: readonly Seat[];
  readonly order: 'together' | 'oneByOne';
  readonly rule: Rule;
  /** The target. Later is late, and still possible. */
  readonly due: Time | null;
  /** After it nobody can act unless it is extended. */
  readonly closes: Time | null;
  /** Whether one decline stops the stage for the controller, or only counts against its rule. */
  readonly onDecline: 'stop' | 'count';
  readonly delegate: boolean;
}

export interface Series {
  readonly kind: 'series';
  readonly id: string;
  readonly parts: readonly Route[];
}

export interface Parallel {
  readonly kind: 'parallel';
  readonly id: string;
  readonly name: string;
  readonly branches: readonly Branch[];
  readonly join: Rule;
}

export interface Branch {
  readonly name: string;
  readonly route: Series;
}

export type Route = Stage | Series | Parallel;

export const verbs: readonly Verb[] = ['contribute', 'review', 'approve', 'sign', 'read'];

/** Every stage of the route, in reading order. */
export function stagesOf(route: Route): Stage[] {
  if (route.kind === 'stage') return [route];
  if (route.kind === 'series') return route.parts.flatMap(stagesOf);
  return route.branches.flatMap((branch) => stagesOf(branch.route));
}

/** Every seat of the route with its stage, in reading order. */
export function seatsOf(route: Route): { readonly seat: Seat; readonly stage: Stage }[] {
  return stagesOf(route).flatMap((stage) => stage.seats.map((seat) => ({ seat, stage })));
}

/** The route with each stage replaced by what `change` gives for it; null removes the stage. */
export function mapStages(route: Series, change: (stage: Stage) => Stage | null): Series {
  const parts: Route[] = [];
  for (const part of route.parts) {
    if (part.kind === 'stage') {
      const next = change(part);
      if (next) parts.push(next);
    } else if (part.kind === 'series') parts.push(mapStages(part, change));
    else parts.push({ ...part, branches: part.branches.map((b) => ({ ...b, route: mapStages(b.route, change) })) });
  }
  return { ...route, parts };
}

/** A route with nothing in it, ready for planning. */
export function emptyRoute(id: string): Series {
  return { kind: 'series', id, parts: [] };
}

export type RouteFault =
  | { readonly code: 'duplicate-id'; readonly id: string }
  | { readonly code: 'rule-out-of-reach'; readonly id: string; readonly k: number; readonly n: number }
  | { readonly code: 'too-few-branches' | 'empty-branch'; readonly id: string }
  | { readonly code: 'sign-under-partial-join'; readonly id: string }
  | { readonly code: 'closes-before-due'; readonly id: string }
  | { readonly code: 'too-large'; readonly seats: number; readonly stages: number };

export const routeLimits = { seats: 200, stages: 60, depth: 6 } as const;

/** Series in which no stage stands, but for the root: nothing could ever be done in them. */
export function emptySeries(route: Series): string[] {
  const inside = (part: Route): string[] =>
    part.kind === 'stage'
      ? []
      : part.kind === 'series'
        ? [...(stagesOf(part).length === 0 ? [part.id] : []), ...part.parts.flatMap(inside)]
        : part.branches.flatMap((branch) => inside(branch.route));
  return route.parts.flatMap(inside);
}

/** What makes a tree unfit to be a route at all, whoever is in it. An unfinished route (empty stages) is fit. */
export function routeFaults(route: Route): RouteFault[] {
  const faults: RouteFault[] = [];
  const seen = new Set<string>();
  let seats = 0;
  let stages = 0;
  let deepest = 0;
  const claim = (id: string) => {
    if (seen.has(id)) faults.push({ code: 'duplicate-id', id });
    seen.add(id);
  };
  const ruleFits = (id: string, rule: Rule, n: number) => {
    if (rule.kind === 'atLeast' && (rule.k < 1 || (n > 0 && rule.k > n) || !Number.isInteger(rule.k)))
      faults.push({ code: 'rule-out-of-reach', id, k: rule.k, n });
  };
  const visit = (part: Route, partial: boolean, depth: number) => {
    claim(part.id);
    deepest = Math.max(deepest, depth);
    if (part.kind === 'series') for (const inner of part.parts) visit(inner, partial, depth);
    else if (part.kind === 'parallel') {
      if (part.branches.length < 2) faults.push({ code: 'too-few-branches', id: part.id });
      ruleFits(part.id, part.join, part.branches.length);
      const { needed, n } = planned(part.join, part.branches.length);
      for (const branch of part.branches) visit(branch.route, partial || needed < n, depth + 1);
    } else {
      stages += 1;
      seats += part.seats.length;
      for (const seat of part.seats) claim(seat.id);
      ruleFits(part.id, part.rule, part.seats.length);
      // A seal cannot be taken back out of a file, so a signature may not sit in a branch that others can overtake.
      if (part.verb === 'sign' && partial) faults.push({ code: 'sign-under-partial-join', id: part.id });
      const [due, closes] = [instantOf(part.due), instantOf(part.closes)];
      if (due !== null && closes !== null && closes < due) faults.push({ code: 'closes-before-due', id: part.id });
    }
  };
  visit(route, false, 0);
  if (seats > routeLimits.seats || stages > routeLimits.stages || deepest > routeLimits.depth)
    faults.push({ code: 'too-large', seats, stages });
  return faults;
}
