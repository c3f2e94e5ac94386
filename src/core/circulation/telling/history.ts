import { type RouteDifference, routeDifferences } from '../../route/changes';
import type { Used } from '../../route/condition';
import type { FactValue } from '../../route/facts';
import { instantOf, partsOf } from '../../route/route';
import type { Outcome, Verb } from '../../route/verbs';
import type { Instant } from '../../time/instant';
import type { CirculationEvent, CirculationEventType } from '../run/events';
import { apply, begin, type Draft } from '../run/evolve';
import type { HeldFor, PayloadHash, ReworkCause } from '../run/shapes';
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

/** A line as somebody may read it who does not steer the circulation: without what only its controller sees; null for none. */
export function lineForAll(line: HistoryLine): HistoryLine | null {
  if (line.hidden) return null;
  const differences = line.differences.filter((one) => !('hidden' in one && one.hidden));
  return differences.length === line.differences.length ? line : { ...line, differences };
}

function lineFor(before: Draft, event: CirculationEvent, sequence: number): HistoryLine {
  const { data } = event;
  const seat = 'seat' in data && data.seat !== null ? before.seats.get(data.seat) : undefined;
  const stage =
    'stage' in data
      ? data.stage
      : 'part' in data
        ? before.stages.has(data.part)
          ? data.part
          : undefined
        : seat?.stage;
  return {
    sequence,
    type: event.type,
    at: event.at,
    actor: event.actor,
    onBehalfOf: event.onBehalfOf,
    holder: (event.type === 'seat.asked' ? holderAsked(event) : null) ?? (seat && baseHolder(seat)?.person) ?? null,
    to: toOf(event),
    verb: stage === undefined ? null : stagePlan(before, stage).verb,
    outcome: event.type === 'seat.decided' ? event.data.outcome : null,
    version: event.type === 'version.attached' ? event.data.version.number : (newest(before)?.number ?? null),
    round: event.type === 'round.begun' ? event.data.round : before.round,
    due:
      event.type === 'stage.timed'
        ? instantOf(event.data.due)
        : event.type === 'circulation.amended'
          ? (event.data.whole?.due ?? null)
          : 'due' in data
            ? (data.due as Instant | null)
            : null,
    closes:
      event.type === 'stage.timed'
        ? instantOf(event.data.closes)
        : event.type === 'circulation.amended'
          ? (event.data.whole?.closes ?? null)
          : 'closes' in data
            ? (data.closes as Instant | null)
            : null,
    held: event.type === 'stage.held' ? event.data.for : null,
    cause: event.type === 'rework.began' ? event.data.cause : null,
    revision:
      event.type === 'circulation.completed'
        ? (event.data.revisions.find(({ record }) => record === before.records[0])?.revision ?? null)
        : null,
    ...besides(before, event),
    // What a decision said is told with the decision, not once more with the comment it left.
    note:
      event.type === 'circulation.amended'
        ? event.data.reason
        : 'note' in data && !('comment' in data && isOfDecision(data.comment))
          ? data.note
          : null,
  };
}

function holderAsked(event: Extract<CirculationEvent, { type: 'seat.asked' }>): string | null {
  return event.data.holders.find((holder) => holder.via !== 'second')?.person ?? null;
}

function toOf(event: CirculationEvent): string | null {
  switch (event.type) {
    case 'control.handed':
    case 'seat.readdressed':
    case 'seat.delegated':
    case 'seat.named':
    case 'delegation.asked':
    case 'delegation.refused':
      return event.data.to;
    case 'seat.freed':
    case 'seat.lateTold':
      return event.data.person;
    case 'seat.reassigned':
      return event.data.to.person;
    case 'secondHolder.added':
    case 'secondHolder.dropped':
      return event.data.person;
    default:
      return null;
  }
}

/** Each role once, however often the route asks whoever fills it; none that only gets a hidden copy. */
function rolesOf(before: Draft, { data }: Extract<CirculationEvent, { type: 'circulation.sent' }>) {
  const hidden = new Set(plannedCopies(before).flatMap((board) => (board.hidden ? board.to.map(({ id }) => id) : [])));
  const told = data.roles.filter(({ of }) => !hidden.has(of));
  return [...new Map(told.map(({ role, name, person }) => [role, { name, person }])).values()];
}

const none = {
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
};

/** What only few events have to tell. */
function besides(before: Draft, event: CirculationEvent): Pick<HistoryLine, keyof typeof none> {
  switch (event.type) {
    case 'seat.asked':
      return { ...none, called: event.data.group, nobody: event.data.nobody, people: event.data.covers };
    case 'seat.decided':
      return { ...none, coverUntil: event.data.cover?.until ?? null };
    case 'seat.freed':
      return { ...none, nobody: !event.data.acts };
    case 'seat.readdressed':
      return { ...none, opened: event.data.opened };
    case 'circulation.amended': {
      const { plan, note, roles, called } = event.data;
      const differences = routeDifferences(before.plan, plan);
      const told = roles.map(({ name, person }) => ({ name, person }));
      return { ...none, differences, noteChanged: note !== before.note, names: called, roles: told };
    }
    case 'stage.ruled':
      return { ...none, enough: event.data.k };
    case 'circulation.sent':
      return { ...none, roles: rolesOf(before, event) };
    case 'group.resolved': {
      const { name, members, leftOut } = event.data;
      return { ...none, called: name, people: members.map(({ person }) => person), leftOut };
    }
    case 'part.decided': {
      const { part, holds, used } = event.data;
      const branch = partsOf(before.plan)
        .flatMap((inner) => (inner.kind === 'parallel' ? inner.branches : []))
        .find(({ route }) => route.id === part);
      const stages = plannedStages(before);
      const usedThen = used.map((one) => {
        if (one.kind !== 'outcome') return one;
        const at = stages.findIndex(({ id }) => id === one.stage);
        return { ...one, verb: stages[at]?.verb ?? null, place: at + 1 };
      });
      return { ...none, called: branch?.name ?? null, condition: { holds, used: usedThen } };
    }
    case 'facts.given': {
      const { facts, names } = event.data;
      const given = Object.entries(facts).map(([id, value]) => ({ name: names[id] ?? id, value }));
      return { ...none, facts: given };
    }
    case 'copies.reached':
    case 'copies.sent': {
      const board = plannedCopies(before).find(({ id }) => id === event.data.copies);
      const to = event.type === 'copies.reached' ? event.data.to : (before.copies.get(event.data.copies)?.to ?? []);
      return { ...none, people: to.map(({ person }) => person), hidden: board?.hidden ?? false };
    }
    default:
      return none;
  }
}
