import type { Instant } from '../time/instant';
import { unreachable } from '../unreachable';
import { type Condition, conditionLimits } from './condition';
import { planned, type Rule } from './tally';
import { type Verb, verbFacts } from './verbs';

/** Working days end with the working day; working hours run while work does; days keep the wall clock. */
export const units = ['workingDays', 'workingHours', 'days'] as const;
export type Unit = (typeof units)[number];

export interface Duration {
  readonly amount: number;
  readonly unit: Unit;
}

/** When something is due or closes: an instant, or so long after it is asked. Events carry instants computed from it. */
export type Time = { readonly kind: 'instant'; readonly at: Instant } | ({ readonly kind: 'after' } & Duration);

/** The instant a time of the plan means, where it names one; null where there is none, or it counts from being asked. */
export function instantOf(time: Time | null): Instant | null {
  return time?.kind === 'instant' ? time.at : null;
}

/** The time of the plan that is this instant. */
export function atInstant(at: Instant | null): Time | null {
  return at === null ? null : { kind: 'instant', at };
}

/** Nobody of a stage may respond before it: a date, or so long after something that happened to that person. */
export type Earliest =
  | { readonly kind: 'date'; readonly at: Instant }
  | ({
      readonly kind: 'wait';
      /** After they were asked, after they first opened the content, or after another stage ended. */
      readonly from: 'asked' | 'opened' | { readonly stage: string };
      /** Whether it begins again with other content. */
      readonly again: boolean;
    } & Duration);

/** Somebody by name. An outside person has no account and is reached by a link of their own. */
export type Assignee =
  | { readonly kind: 'person'; readonly person: string }
  | { readonly kind: 'outside'; readonly person: string };

/** Who a seat is planned for. */
export type Assignment =
  | Assignee
  /** Any member of a group, who takes the task; or every member, each a seat of their own. */
  | { readonly kind: 'group'; readonly group: string; readonly members: 'any' | 'every' }
  /** Whoever fills a role when the circulation is sent. */
  | { readonly kind: 'role'; readonly role: string }
  /** Any one or every one who belongs to a unit, or whoever leads it when the circulation is sent. */
  | { readonly kind: 'unit'; readonly unit: string; readonly members: 'any' | 'every' | 'lead' }
  /** Whoever the holder of an earlier seat names before they decide. */
  | { readonly kind: 'named'; readonly by: string };

/** The people of a unit as a group, and who leads it as a role: by what they are known beside those that have ids of their own. */
export const unitGroup = (unit: string): string => `unit:${unit}`;
export const unitLead = (unit: string): string => `lead:${unit}`;

/** Whom an assignment asks: a person, a group, whoever fills a role, or somebody who is still to be named. */
interface Asked {
  readonly person: string | null;
  readonly group: { readonly group: string; readonly members: 'any' | 'every' } | null;
  readonly role: string | null;
}

const none: Asked = { person: null, group: null, role: null };

function asked(assignment: Assignment): Asked {
  switch (assignment.kind) {
    case 'person':
    case 'outside':
      return { ...none, person: assignment.person };
    case 'group':
      return { ...none, group: assignment };
    case 'role':
      return { ...none, role: assignment.role };
    case 'unit':
      return assignment.members === 'lead'
        ? { ...none, role: unitLead(assignment.unit) }
        : { ...none, group: { group: unitGroup(assignment.unit), members: assignment.members } };
    case 'named':
      return none;
    default:
      return unreachable(assignment, 'assignment');
  }
}

/** The group any or every member of which an assignment asks; null where it asks none. */
export const groupAsked = (assignment: Assignment): Asked['group'] => asked(assignment).group;

/** The role whoever fills which an assignment asks; null where it asks none. */
export const roleAsked = (assignment: Assignment): string | null => asked(assignment).role;

/** Roles that follow from the document; an organization adds its own. */
export const documentRoles = ['owner', 'author', 'unitLead', 'custodian'] as const;

/** Some pages of a file, from 1, both ends included. */
export interface PageRange {
  readonly file: string;
  readonly from: number;
  readonly to: number;
}

export interface Seat {
  readonly id: string;
  readonly assignment: Assignment;
  /** The files of the bundle that the seat decides on, by their ids; all of them unless some are named. */
  readonly files: 'all' | readonly string[];
  /** Of these files it decides only on some pages, both ends included, from 1; on all pages of the others. */
  readonly pages: readonly PageRange[];
  /** The values of the circulation that the seat decides on, by their ids. */
  readonly facts: readonly string[];
  /** Times of this seat alone; they come before its stage's. */
  readonly due: Time | null;
  readonly closes: Time | null;
}

/** From when something is allowed: never, once asked, once they have responded, once the document is released. */
export const availabilities = ['never', 'asked', 'responded', 'released'] as const;
export type Availability = (typeof availabilities)[number];

/** What the people of a stage may do besides responding. */
export interface Allows {
  readonly comment: boolean;
  /** Whether a holder may pass their task on, freely or once the controller has agreed. */
  readonly delegate: 'no' | 'freely' | 'agreed';
  readonly print: Availability;
  readonly download: Availability;
  /** Whether somebody asked to sign may ask for changes instead. */
  readonly changes: boolean;
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
  readonly earliest: Earliest | null;
  /** Only when it holds; decided when the stage is reached. */
  readonly condition: Condition | null;
  /** Whether a return begins rework at once, or after the others of the stage have responded. */
  readonly onReturn: 'atOnce' | 'gather';
  /** Whether one decline stops the stage for the controller, or only counts against its rule. */
  readonly onDecline: 'stop' | 'count';
  /** Other stages in which nobody responds who has responded in this one, and the other way round. */
  readonly independentOf: readonly string[];
  readonly allows: Allows;
}

/** A board at a tower: who gets the result of what went before, without being asked. */
export interface Copies {
  readonly kind: 'copies';
  readonly id: string;
  readonly to: readonly { readonly id: string; readonly assignment: Assignment }[];
  /** Whether only the controller sees who gets them. */
  readonly hidden: boolean;
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
  /** Only when it holds; decided when its parallel is reached. */
  readonly condition: Condition | null;
  readonly route: Series;
}

/**
 * The route of a circulation: a well-nested tree of stages. Because series and parallels nest properly and
 * nothing jumps, a route can always finish.
 */
export type Route = Stage | Copies | Series | Parallel;

/** What a stage allows unless it says otherwise. */
export const usualAllows: Allows = {
  comment: true,
  delegate: 'freely',
  print: 'asked',
  download: 'asked',
  changes: false,
};

/** A stage as it begins: everybody together, all needed, no times. */
export function freshStage(id: string, verb: Verb, seats: readonly Seat[] = []): Stage {
  return {
    kind: 'stage',
    id,
    verb,
    seats,
    order: 'together',
    rule: { kind: 'all' },
    due: null,
    closes: null,
    earliest: null,
    condition: null,
    onReturn: 'atOnce',
    onDecline: 'stop',
    independentOf: [],
    allows: usualAllows,
  };
}

/** A seat as it begins: for all files, with the times of its stage. */
export function freshSeat(id: string, assignment: Assignment): Seat {
  return { id, assignment, files: 'all', pages: [], facts: [], due: null, closes: null };
}

/** The person an assignment names by itself; null where it has to be found first. */
export const personOf = (assignment: Assignment): string | null => asked(assignment).person;

/** Every part of the route, itself first, in reading order. */
export function partsOf(route: Route): Route[] {
  if (route.kind === 'series') return [route, ...route.parts.flatMap(partsOf)];
  if (route.kind === 'parallel') return [route, ...route.branches.flatMap((branch) => partsOf(branch.route))];
  return [route];
}

/** Every stage of the route, in reading order. */
export function stagesOf(route: Route): Stage[] {
  if (route.kind === 'stage') return [route];
  if (route.kind === 'copies') return [];
  if (route.kind === 'series') return route.parts.flatMap(stagesOf);
  return route.branches.flatMap((branch) => stagesOf(branch.route));
}

/** Every seat of the route with its stage, in reading order. */
export function seatsOf(route: Route): { readonly seat: Seat; readonly stage: Stage }[] {
  return stagesOf(route).flatMap((stage) => stage.seats.map((seat) => ({ seat, stage })));
}

/** Every board of the route, in reading order. */
export function copiesOf(route: Route): Copies[] {
  return partsOf(route).filter((part) => part.kind === 'copies');
}

/** Whom a route names: the assignment of every seat and every entry of a board, by its id, the seats first. */
export function assignedIn(route: Route): { readonly id: string; readonly assignment: Assignment }[] {
  return [...seatsOf(route).map(({ seat }) => seat), ...copiesOf(route).flatMap(({ to }) => to)];
}

/** The people whom a route names as such. */
export function assigneesIn(route: Route): Assignee[] {
  return assignedIn(route).flatMap(({ assignment: one }) =>
    one.kind === 'person' || one.kind === 'outside' ? one : [],
  );
}

/** The route without the boards that only its controller sees. */
export function withoutHidden(route: Series): Series {
  const parts = route.parts.filter((part) => part.kind !== 'copies' || !part.hidden);
  return {
    ...route,
    parts: parts.map((part): Route => {
      if (part.kind === 'series') return withoutHidden(part);
      if (part.kind !== 'parallel') return part;
      return { ...part, branches: part.branches.map((one) => ({ ...one, route: withoutHidden(one.route) })) };
    }),
  };
}

/** Every condition of the route with the stage or the branch (by its series) that it stands on, in reading order. */
export function conditionsOf(route: Route): { readonly part: string; readonly condition: Condition }[] {
  return partsOf(route).flatMap((part) => {
    if (part.kind === 'stage') return part.condition ? [{ part: part.id, condition: part.condition }] : [];
    if (part.kind !== 'parallel') return [];
    return part.branches.flatMap((branch) =>
      branch.condition ? [{ part: branch.route.id, condition: branch.condition }] : [],
    );
  });
}

const independents = new WeakMap<Route, ReadonlyMap<string, readonly string[]>>();

/** The stages that each stage is independent of, whichever of the two asks for it; without those that are of no other. */
export function independentStages(route: Route): ReadonlyMap<string, readonly string[]> {
  const known = independents.get(route);
  if (known) return known;
  const found = new Map<string, string[]>();
  const note = (one: string, other: string) => {
    const there = found.get(one) ?? [];
    if (!there.includes(other)) found.set(one, [...there, other]);
  };
  for (const { id, independentOf } of stagesOf(route))
    for (const other of independentOf) {
      note(id, other);
      note(other, id);
    }
  independents.set(route, found);
  return found;
}

/** The route with each stage replaced by what `change` gives for it; null removes the stage. */
export function mapStages(route: Series, change: (stage: Stage) => Stage | null): Series {
  const parts: Route[] = [];
  for (const part of route.parts) {
    if (part.kind === 'stage') {
      const next = change(part);
      if (next) parts.push(next);
    } else if (part.kind === 'copies') parts.push(part);
    else if (part.kind === 'series') parts.push(mapStages(part, change));
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
  | { readonly code: 'time-unfit' | 'condition-unfit' | 'independence-unfit'; readonly id: string }
  | { readonly code: 'too-large'; readonly seats: number; readonly stages: number };

/** How large a route may be; files, pages and values are those of one seat. */
export const routeLimits = { seats: 200, stages: 60, depth: 6, amount: 1000, files: 50, pages: 20, facts: 40 } as const;

/** Series in which no stage stands, but for the root: nothing could ever be done in them. */
export function emptySeries(route: Series): string[] {
  const inside = (part: Route): string[] =>
    part.kind === 'stage' || part.kind === 'copies'
      ? []
      : part.kind === 'series'
        ? [...(stagesOf(part).length === 0 ? [part.id] : []), ...part.parts.flatMap(inside)]
        : part.branches.flatMap((branch) => inside(branch.route));
  return route.parts.flatMap(inside);
}

/** How many seats a stage will have; null where every member of a group is one, which only the group knows. */
export function knownSeats(stage: Pick<Stage, 'seats'>): number | null {
  const open = stage.seats.some(({ assignment }) => groupAsked(assignment)?.members === 'every');
  return open ? null : stage.seats.length;
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
  const ruleFits = (id: string, rule: Rule, n: number | null) => {
    if (rule.kind === 'atLeast' && (rule.k < 1 || (n !== null && n > 0 && rule.k > n) || !Number.isInteger(rule.k)))
      faults.push({ code: 'rule-out-of-reach', id, k: rule.k, n: n ?? 0 });
  };
  const timeFits = (id: string, time: Duration | Time | null) => {
    if (time === null || !('unit' in time)) return;
    const least = time.unit === 'workingDays' ? 0 : 1;
    if (!Number.isInteger(time.amount) || time.amount < least || time.amount > routeLimits.amount)
      faults.push({ code: 'time-unfit', id });
  };
  const conditionFits = (id: string, condition: Condition | null) => {
    if (condition && !isFit(condition)) faults.push({ code: 'condition-unfit', id });
  };
  const visit = (part: Route, partial: boolean, depth: number) => {
    claim(part.id);
    deepest = Math.max(deepest, depth);
    if (part.kind === 'copies') {
      seats += part.to.length;
      for (const { id } of part.to) claim(id);
    } else if (part.kind === 'series') for (const inner of part.parts) visit(inner, partial, depth);
    else if (part.kind === 'parallel') {
      // One is left where another was removed under way.
      if (part.branches.length < 1) faults.push({ code: 'too-few-branches', id: part.id });
      ruleFits(part.id, part.join, part.branches.length);
      const { needed, n } = planned(part.join, part.branches.length);
      for (const branch of part.branches) {
        conditionFits(branch.route.id, branch.condition);
        visit(branch.route, partial || needed < n, depth + 1);
      }
    } else {
      stages += 1;
      seats += part.seats.length;
      for (const seat of part.seats) {
        claim(seat.id);
        timeFits(seat.id, seat.due);
        timeFits(seat.id, seat.closes);
        if (comesBefore(seat.closes ?? part.closes, seat.due ?? part.due) && (seat.closes || seat.due))
          faults.push({ code: 'closes-before-due', id: seat.id });
      }
      for (const time of [part.due, part.closes, part.earliest]) if (time && 'unit' in time) timeFits(part.id, time);
      conditionFits(part.id, part.condition);
      ruleFits(part.id, part.rule, knownSeats(part));
      // A seal cannot be taken back out of a file, so a signature may not sit in a branch that others can overtake.
      if (verbFacts[part.verb].signs && partial) faults.push({ code: 'sign-under-partial-join', id: part.id });
      if (comesBefore(part.closes, part.due)) faults.push({ code: 'closes-before-due', id: part.id });
    }
  };
  visit(route, false, 0);
  const stageIds = new Set(stagesOf(route).map(({ id }) => id));
  for (const { id, independentOf } of stagesOf(route))
    if (independentOf.some((other) => other === id || !stageIds.has(other)))
      faults.push({ code: 'independence-unfit', id });
  if (seats > routeLimits.seats || stages > routeLimits.stages || deepest > routeLimits.depth)
    faults.push({ code: 'too-large', seats, stages });
  return faults;
}

/** Whether a time lies before another for certain: both instants, or both so long after the same moment. */
export function comesBefore(one: Time | null, other: Time | null): boolean {
  if (one?.kind === 'instant' && other?.kind === 'instant') return one.at < other.at;
  return one?.kind === 'after' && other?.kind === 'after' && one.unit === other.unit && one.amount < other.amount;
}

/** Whether a condition is small enough, and no list of it empty. */
function isFit(condition: Condition): boolean {
  let parts = 0;
  const visit = (part: Condition, depth: number): boolean => {
    parts += 1;
    if (depth > conditionLimits.depth) return false;
    if (part.kind === 'not') return visit(part.of, depth + 1);
    if (part.kind !== 'all' && part.kind !== 'any') return true;
    return part.of.length > 0 && part.of.every((inner) => visit(inner, depth + 1));
  };
  return visit(condition, 1) && parts <= conditionLimits.parts;
}
