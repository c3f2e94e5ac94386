import { type RouteDifference, routeDifferences } from '../../route/changes';
import type { Used } from '../../route/condition';
import type { FactValue } from '../../route/facts';
import { instantOf, partsOf } from '../../route/route';
import type { Outcome, Verb } from '../../route/verbs';
import type { Instant } from '../../time/instant';
import type { CirculationEvent, CirculationEventType } from '../run/events';
import { apply, begin, type Draft } from '../run/evolve';
import type { CopyHolder, HeldFor, PayloadHash, ReworkCause, RoleFilled } from '../run/shapes';
import { baseHolder, isOfDecision, newest, plannedCopies, plannedStages, stagePlan } from '../run/state';

/** What a comparison was made with; a stage by what it asks and its place in the route, as they were then. */
export type UsedThen =
  | Exclude<Used, { kind: 'outcome' }>
  | (Extract<Used, { kind: 'outcome' }> & { readonly verb: Verb | null; readonly place: number });

/** One line of a circulation's history: an event with all that a sentence about it needs, as it was at that moment. */
export interface HistoryLine {
  readonly sequence: number;
  readonly type: CirculationEventType;
  readonly at: Instant;
  readonly actor: string;
  readonly onBehalfOf: string | null;
  /** Who held the seat it is about; before the event, where it changes hands. */
  readonly holder: string | null;
  /** Who got the seat, or was added to it or dropped from it. */
  readonly to: string | null;
  /** What the stage it is about asks. */
  readonly verb: Verb | null;
  readonly outcome: Outcome | null;
  /** The version it made, sent, opened or decided on. */
  readonly version: number | null;
  readonly round: number;
  /** A due and a closing time that it set. */
  readonly due: Instant | null;
  readonly closes: Instant | null;
  readonly held: HeldFor | null;
  readonly cause: ReworkCause | null;
  /** What a group, a role or a branch was called that it is about. */
  readonly called: string | null;
  /** People whom it names besides: members who are asked, who get copies. */
  readonly people: readonly string[];
  /** Members of a group who are not asked. */
  readonly leftOut: readonly string[];
  /** Who fills the roles of the route. */
  readonly roles: readonly { readonly name: string; readonly person: string | null }[];
  /** Until when somebody covered who responded on behalf of another. */
  readonly coverUntil: Instant | null;
  /** Whether a seat was asked that nobody could act on; or a wait was over for somebody who acted there no longer. */
  readonly nobody: boolean;
  /** When the link of a former address had been opened. */
  readonly opened: Instant | null;
  /** How many were said to be enough. */
  readonly enough: number | null;
  /** What an amendment changed, in the words of that moment. */
  readonly differences: readonly RouteDifference[];
  readonly noteChanged: boolean;
  readonly names: Readonly<Record<string, string>>;
  /** What a condition was decided from, and whether it held; values that were given to facts. */
  readonly condition: { readonly holds: boolean; readonly used: readonly UsedThen[] } | null;
  readonly facts: readonly { readonly name: string; readonly value: FactValue }[];
  /** Only its controller sees it. */
  readonly hidden: boolean;
  /** The revision of the leading record that it released. */
  readonly revision: string | null;
  readonly note: PayloadHash | null;
}

/**
 * The history that a stream tells, a line an event, each made from what was known then: the lines of any beginning of a
 * stream are the first lines of the whole.
 */
export function history(events: Iterable<CirculationEvent>): HistoryLine[] {
  const lines: HistoryLine[] = [];
  let draft: Draft | null = null;
  for (const event of events) {
    // A creation is told from itself; everything else from what stood before it.
    const before: Draft = draft ?? begin(event);
    lines.push(lineFor(before, event, lines.length + 1));
    if (draft) apply(draft, event);
    draft = before;
  }
  return lines;
}

/**
 * The history as somebody may read it. Whoever does not steer the circulation learns nothing of hidden copies, neither who
 * gets them nor what these are called.
 */
export function historyFor(events: Iterable<CirculationEvent>, steers: boolean): HistoryLine[] {
  return history(events).flatMap((line) => (steers ? line : (lineForAll(line) ?? [])));
}

/** A line as somebody may read it who does not steer the circulation: without what only its controller sees; null for none. */
export function lineForAll(line: HistoryLine): HistoryLine | null {
  if (line.hidden) return null;
  const differences = line.differences.filter((one) => !('hidden' in one && one.hidden));
  return differences.length === line.differences.length ? line : { ...line, differences };
}

function lineFor(before: Draft, event: CirculationEvent, sequence: number): HistoryLine {
  const { data } = event;
  const seat = 'seat' in data && data.seat !== null ? before.seats.get(data.seat) : undefined;
  const part = 'part' in data && before.stages.has(data.part) ? data.part : undefined;
  const stage = 'stage' in data ? data.stage : (part ?? seat?.stage);
  const holder = (seat && baseHolder(seat)?.person) ?? null;
  return {
    ...none,
    // Where any one of a group is asked, nobody holds the seat yet.
    called: holder === null ? (seat?.groupCalled ?? null) : null,
    sequence,
    type: event.type,
    at: event.at,
    actor: event.actor,
    onBehalfOf: event.onBehalfOf,
    holder,
    verb: stage === undefined ? null : stagePlan(before, stage).verb,
    version: newest(before)?.number ?? null,
    round: before.round,
    note: 'note' in data ? data.note : null,
    ...besidesOf(before, event),
  };
}

/** What a line has where its event does not tell it. */
const none = {
  to: null,
  outcome: null,
  due: null,
  closes: null,
  held: null,
  cause: null,
  revision: null,
  called: null,
  people: [],
  leftOut: [],
  roles: [],
  nobody: false,
  coverUntil: null,
  enough: null,
  opened: null,
  differences: [],
  noteChanged: false,
  names: {},
  condition: null,
  facts: [],
  hidden: false,
} satisfies Partial<HistoryLine>;

type Besides<T extends CirculationEventType> = (
  before: Draft,
  data: Extract<CirculationEvent, { type: T }>['data'],
) => Partial<HistoryLine>;

function besidesOf(before: Draft, { type, data }: CirculationEvent): Partial<HistoryLine> {
  // Each row takes the data of its own type, which the compiler cannot follow through the table.
  return (besides[type] as (before: Draft, own: typeof data) => Partial<HistoryLine>)(before, data);
}

const nothing = () => ({});
const toPerson = (_before: Draft, { person }: { readonly person: string }) => ({ to: person });
const toWhom = (_before: Draft, { to }: { readonly to: string }) => ({ to });
const times = (_before: Draft, { due, closes }: { readonly due: Instant | null; readonly closes: Instant | null }) => ({
  due,
  closes,
});
const copied = (before: Draft, copies: string, to: readonly CopyHolder[]) => ({
  people: to.map(({ person }) => person),
  hidden: plannedCopies(before).find(({ id }) => id === copies)?.hidden ?? false,
});

/** What each event has to tell besides who did it, about which seat and stage. */
const besides: { readonly [T in CirculationEventType]: Besides<T> } = {
  'circulation.created': nothing,
  'route.planned': nothing,
  'facts.given': (_before, { facts, names }) => ({
    facts: Object.entries(facts).map(([id, value]) => ({ name: names[id] ?? id, value })),
  }),
  'fields.put': nothing,
  'version.attached': (_before, { version }) => ({ version: version.number }),
  'circulation.sent': (before, { due, closes, roles }) => ({ due, closes, roles: rolesOf(before, roles) }),
  'circulation.amended': (before, { plan, note, whole, roles, called, reason }) => ({
    due: whole?.due ?? null,
    closes: whole?.closes ?? null,
    differences: routeDifferences(before.plan, plan),
    noteChanged: note !== before.note,
    names: called,
    roles: roles.map(({ name, person }) => ({ name, person })),
    note: reason,
  }),
  'circulation.paused': nothing,
  'circulation.wentOn': nothing,
  'control.handed': toWhom,
  'circulation.closed': nothing,
  'circulation.extended': times,
  'part.decided': (before, { part, holds, used }) => ({
    called: branchName(before, part),
    condition: { holds, used: usedThen(before, used) },
  }),
  'group.resolved': (_before, { name, members, leftOut }) => ({
    called: name,
    people: members.map(({ person }) => person),
    leftOut,
  }),
  'copies.reached': (before, { copies, to }) => copied(before, copies, to),
  'copies.sent': (before, { copies }) => copied(before, copies, before.copies.get(copies)?.to ?? []),
  'stage.opened': nothing,
  'stage.held': (_before, data) => ({ held: data.for }),
  'stage.freed': nothing,
  'stage.ruled': (_before, { k }) => ({ enough: k }),
  'stage.timed': (_before, { due, closes }) => ({ due: instantOf(due), closes: instantOf(closes) }),
  'stage.stuck': nothing,
  'stage.healed': nothing,
  'stage.closed': nothing,
  'stage.released': nothing,
  'file.frozen': nothing,
  'seat.asked': (before, { seat, holders, due, closes, group, nobody, covers }) => ({
    holder: (baseHolder({ holders }) ?? baseHolder(before.seats.get(seat) ?? { holders: [] }))?.person ?? null,
    due,
    closes,
    called: group,
    nobody,
    people: covers,
  }),
  'seat.seen': (_before, { due }) => ({ due }),
  'seat.freed': (_before, { person, acts }) => ({ to: person, nobody: !acts }),
  'seat.taken': (_before, { due }) => ({ due }),
  'seat.givenBack': nothing,
  'seat.named': toWhom,
  'seat.decided': (_before, { outcome, cover }) => ({ outcome, coverUntil: cover?.until ?? null }),
  'seat.missed': nothing,
  'seat.released': nothing,
  'seat.passed': nothing,
  'seat.extended': times,
  'seat.askedAgain': times,
  'seat.reminded': nothing,
  'seat.lateTold': toPerson,
  'reminders.set': nothing,
  'delegation.asked': toWhom,
  'delegation.refused': toWhom,
  'seat.delegated': (_before, { to, due }) => ({ to, due }),
  'seat.reassigned': (_before, { to, due, closes }) => ({ to: to.person, due, closes }),
  'seat.readdressed': (_before, { to, due, opened }) => ({ to, due, opened }),
  'secondHolder.added': toPerson,
  'secondHolder.dropped': toPerson,
  'link.copied': nothing,
  // What a decision said is told with the decision, not once more with the comment it left.
  'comment.made': (_before, { comment }) => (isOfDecision(comment) ? { note: null } : {}),
  'comment.resolved': nothing,
  'comment.reopened': nothing,
  'question.asked': nothing,
  'question.answered': (_before, { due }) => ({ due }),
  'rework.began': (_before, { cause }) => ({ cause }),
  'round.begun': (_before, { round }) => ({ round }),
  'finishing.began': nothing,
  'finals.kept': nothing,
  'circulation.withdrawn': nothing,
  'circulation.completed': (before, { revisions }) => ({
    revision: revisions.find(({ record }) => record === before.records[0])?.revision ?? null,
  }),
};

/** Each role once, however often the route asks whoever fills it; none that only gets a hidden copy. */
function rolesOf(before: Draft, roles: readonly RoleFilled[]) {
  const hidden = new Set(plannedCopies(before).flatMap((board) => (board.hidden ? board.to.map(({ id }) => id) : [])));
  const told = roles.filter(({ of }) => !hidden.has(of));
  return [...new Map(told.map(({ role, name, person }) => [role, { name, person }])).values()];
}

function branchName({ plan }: Draft, part: string): string | null {
  const branches = partsOf(plan).flatMap((inner) => (inner.kind === 'parallel' ? inner.branches : []));
  return branches.find(({ route }) => route.id === part)?.name ?? null;
}

function usedThen(before: Draft, used: readonly Used[]): UsedThen[] {
  const stages = plannedStages(before);
  return used.map((one) => {
    if (one.kind !== 'outcome') return one;
    const at = stages.findIndex(({ id }) => id === one.stage);
    return { ...one, verb: stages[at]?.verb ?? null, place: at + 1 };
  });
}
