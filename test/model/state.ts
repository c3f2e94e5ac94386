import type { Create } from '@/core/circulation/acts/commands';
import type { Context } from '@/core/circulation/run/context';
import type { Version, Whole } from '@/core/circulation/run/shapes';
import type { Field } from '@/core/page/fields';
import type { Condition } from '@/core/route/condition';
import type { Facts, FactValue } from '@/core/route/facts';
import {
  type Copies,
  type Parallel,
  type Route,
  type Seat,
  type Series,
  type Stage,
  stagesOf,
  type Time,
} from '@/core/route/route';
import type { Outcome } from '@/core/route/verbs';

// What the model knows of a circulation. Only types and the tree of the route come from the code it is held against.

export type Status = 'idle' | 'asked' | 'suspended' | 'decided' | 'declined' | 'returned' | 'missed' | 'released';
export type Model = ReturnType<typeof begun>;
export type ModelSeat = ReturnType<typeof freshSeat>;
export type ModelStage = ReturnType<typeof freshStage>;
type Times = { due: number | null; closes: number | null };

/** What everybody knows at a moment. */
export type Known = Context;

export class Refused extends Error {}
export function refuse(why: string): never {
  throw new Refused(why);
}
export function need(holds: boolean, why: string): void {
  if (!holds) throw new Refused(why);
}

export const newest = (m: Model) => m.versions[m.versions.length - 1] ?? null;
export const documents = (version: Version) => version.files.filter((file) => file.role === 'document');

export const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
export const isOver = ({ gone, status }: ModelStage) => gone !== null || status === 'done' || status === 'released';
export const stageOf = (m: Model, id: string) => m.stages.get(id) as ModelStage;
export const stagePlan = (m: Model, seat: { stage: string }) => m.stagePlans.get(seat.stage) as Stage;
export const seatsIn = (m: Model, stage: ModelStage) =>
  stage.seats.flatMap((id) => m.seats.get(id) ?? []).filter((seat) => !seat.gone);
export const responded = (seat: ModelSeat) => ['decided', 'declined', 'returned'].includes(seat.status);
export const holdersOf = (seat: ModelSeat) => [
  ...(seat.base ? [seat.base.person] : []),
  ...seat.seconds.map((second) => second.person),
];
export const earlier = (a: number | null, b: number | null) => (a === null ? b : b === null ? a : Math.min(a, b));
export const instant = (time: Time | null) => (time?.kind === 'instant' ? time.at : null);

/** The files of a version that a seat decides on. */
export function filesOf(m: Model, seat: { planned: string }, version: Version) {
  const wanted = m.seatPlans.get(seat.planned)?.files ?? 'all';
  return version.files.filter(({ id, role }) => wanted === 'all' || role === 'attachment' || wanted.includes(id));
}

/** What a seat decides on in a version: two texts are equal exactly when it would see the same. */
export function contentIn(m: Model, seat: ModelSeat, version: Version): string {
  const signs = stagePlan(m, seat).verb === 'sign';
  const plan = m.seatPlans.get(seat.planned);
  const files = filesOf(m, seat, version).map((file) => {
    const own =
      signs || file.role === 'attachment' ? [] : (plan?.pages ?? []).filter((range) => range.file === file.id);
    const pages = own.map(({ from, to }) => [from, to, (file.prints ?? []).slice(from - 1, to)] as const);
    if (file.prints && pages.length > 0 && pages.every(([, , prints]) => prints.length > 0))
      return [file.id, file.role, pages];
    const frozen = signs ? m.frozen.get(file.id) : undefined;
    return [file.id, file.role, file.file, frozen?.content === file.file ? frozen.file : ''];
  });
  const facts = [...(plan?.facts ?? [])].sort().map((fact) => [fact, m.facts[fact] ?? null]);
  return JSON.stringify([files, facts]);
}

export function content(m: Model, seat: ModelSeat): string | null {
  const version = newest(m);
  return version && contentIn(m, seat, version);
}

/** Whether a version can follow: newer, with a document, each file once and of these records. */
export function needFitVersion(m: Model, { number, files }: Version): void {
  const ids = new Set(files.map(({ id }) => id));
  need(number > (newest(m)?.number ?? 0) && files.some(({ role }) => role === 'document'), 'not newer, or no document');
  need(ids.size === files.length && files.every(({ record }) => m.records.includes(record)), 'unfit');
}

/** What ends a signature ends it for good: a version in which its seat would see something else. */
export function endSignatures(m: Model, version: Version): void {
  for (const decision of m.decisions) {
    const seat = m.seats.get(decision.seat);
    if (decision.outcome === 'signed' && seat) decision.ended ||= contentIn(m, seat, version) !== decision.content;
  }
}

/** Fields on the content that a file still has. */
export function presentFields(m: Model): Field[] {
  const contents = new Map(newest(m)?.files.map(({ id, file }) => [id, file]));
  return m.fields.filter(({ file }) => contents.get(file) === m.fieldsOn.get(file));
}

/** Whether a signature stands, or would stand again, on a file. */
export function isSigned(m: Model, file: string): boolean {
  const version = newest(m);
  return m.decisions.some((decision) => {
    const seat = m.seats.get(decision.seat);
    if (!version || !seat || decision.outcome !== 'signed' || decision.ended) return false;
    return decision.content === contentIn(m, seat, version) && filesOf(m, seat, version).some(({ id }) => id === file);
  });
}

/** A unit's people are asked like a group, under a name of their own; whoever leads it like a role. */
const groupOf = (who: Seat['assignment']) =>
  who.kind === 'group' ? who.group : who.kind === 'unit' && who.members !== 'lead' ? `unit:${who.unit}` : null;
export const roleOf = (who: Seat['assignment']) =>
  who.kind === 'role' ? who.role : who.kind === 'unit' && who.members === 'lead' ? `lead:${who.unit}` : null;

export function freshSeat(stage: string, plan: Seat, member: { id: string; person: string } | null = null) {
  const { assignment } = plan;
  const named = assignment.kind === 'person' || assignment.kind === 'outside' ? assignment.person : null;
  const person = member?.person ?? named;
  const outside = !member && assignment.kind === 'outside';
  return {
    id: member?.id ?? plan.id,
    stage,
    /** The seat of the plan, which for a member's is that of the group. */
    planned: plan.id,
    gone: null as null | 'removed' | 'expanded',
    group: member ? null : groupOf(assignment),
    base: person === null ? null : baseOf(person, member ? 'member' : 'planned', outside, null),
    seconds: [] as { person: string; since: number }[],
    barred: [] as string[],
    epoch: 1,
    status: 'idle' as Status,
    passed: false,
    since: null as number | null,
    due: null as number | null,
    closes: null as number | null,
    /** Times of its own, given before it is asked; null is what its stage says. */
    given: null as Times | null,
    asking: null as number | null,
    waited: false,
    decision: null as number | null,
    proposal: null as string | null,
    reminded: null as number | null,
    /** Since when each person's time to think has run here, by content. */
    thinking: [] as { person: string; content: string; since: number | null }[],
  };
}

/** Who holds a seat, how they came to it and since when. */
export function baseOf(
  person: string,
  via: 'planned' | 'role' | 'member' | 'taken' | 'named' | 'given',
  outside: boolean,
  since: number | null,
) {
  return { person, via, outside, since };
}

export function freshStage({ id, seats, due, closes }: Stage) {
  return {
    id,
    gone: null as null | 'skipped' | 'removed',
    decided: false,
    seats: seats.map((seat) => seat.id),
    status: 'idle' as 'idle' | 'open' | 'done' | 'released',
    held: null as null | 'fields' | 'freezing' | 'time' | 'crowd',
    due,
    closes,
    /** Whether its times were given anew: instants planned for single seats hold no longer. */
    retimed: false,
    ended: null as number | null,
  };
}

export const freshBlock = () => ({ gone: null as null | 'skipped' | 'removed', decided: false, passedBy: false });

/** A circulation that has been created. */
export function begun({ controller, author, records, plan }: Create, now: number) {
  return {
    phase: 'new' as 'new' | 'running' | 'rework' | 'finishing' | 'completed' | 'withdrawn',
    round: 1,
    last: now,
    controller,
    author,
    records,
    plan,
    note: null as string | null,
    whole: { due: null, closes: null } as Whole,
    due: null as number | null,
    closes: null as number | null,
    paused: null as number | null,
    closed: null as number | null,
    /** Since when clocks have stood still in this round, paused or closed. */
    still: null as number | null,
    facts: {} as Facts,
    versions: [] as Version[],
    /** `ended`: a signature that other bytes have ended. */
    decisions: [] as { seat: string; holder: string; by: string; outcome: Outcome; content: string; ended: boolean }[],
    accepted: [] as { seat: string; decision: number; content: string }[],
    seats: new Map<string, ModelSeat>(),
    stages: new Map<string, ModelStage>(),
    /** Series and parallels by their ids. */
    blocks: new Map<string, ReturnType<typeof freshBlock>>(),
    boards: new Map<string, number | null>(),
    /** Every plan that a stage or a seat has had, the newest: what is removed keeps its last. */
    stagePlans: new Map<string, Stage>(),
    seatPlans: new Map<string, Seat>(),
    fields: [] as readonly Field[],
    fieldsOn: new Map<string, string>(),
    frozen: new Map<string, { content: string; file: string }>(),
    /** When somebody was first sent a content, and when they first opened it. */
    sentTo: new Map<string, number>(),
    openedBy: new Map<string, number>(),
    questions: new Map<string, { seat: string; answered: boolean }>(),
    reworkOf: null as null | 'returned' | 'version' | 'nobody',
    finals: false,
  };
}

/** Every block of a route: its series and parallels. */
export function blocksOf(route: Route): (Series | Parallel)[] {
  if (route.kind === 'series') return [route, ...route.parts.flatMap(blocksOf)];
  if (route.kind === 'parallel') return [route, ...route.branches.flatMap((branch) => blocksOf(branch.route))];
  return [];
}

/** A plan of which nothing has begun. */
export function planned(m: Model, plan: Series): void {
  m.plan = plan;
  m.stages = new Map(stagesOf(plan).map((stage) => [stage.id, freshStage(stage)]));
  m.seats = new Map(stagesOf(plan).flatMap(({ id, seats }) => seats.map((seat) => [seat.id, freshSeat(id, seat)])));
  m.blocks = new Map(blocksOf(plan).map(({ id }) => [id, freshBlock()]));
  m.boards = new Map(boardsOf(plan).map((board) => [board.id, null]));
  note(m, plan);
}

/** Remembers the plans of stages and seats, so that what is removed later keeps its own. */
export function note(m: Model, plan: Series): void {
  for (const stage of stagesOf(plan)) {
    m.stagePlans.set(stage.id, stage);
    for (const seat of stage.seats) m.seatPlans.set(seat.id, seat);
  }
}

export function boardsOf(route: Route): Copies[] {
  if (route.kind === 'copies') return [route];
  if (route.kind === 'series') return route.parts.flatMap(boardsOf);
  return route.kind === 'parallel' ? route.branches.flatMap((branch) => boardsOf(branch.route)) : [];
}

/** How a stage ended, for conditions further on; null while it has not. */
function outcomesOf(m: Model, id: string): string[] | null {
  const stage = m.stages.get(id);
  if (!stage || stage.gone || (stage.status !== 'done' && stage.status !== 'released')) return null;
  return seatsIn(m, stage).flatMap((seat) => {
    if (seat.status === 'missed' || seat.status === 'declined') return [seat.status];
    const outcome = seat.status === 'decided' ? m.decisions[seat.decision ?? -1]?.outcome : null;
    return outcome === 'approvedWithComments' ? [outcome] : [];
  });
}

/** Whether a condition holds; a comparison with what is not there is false. `ended` says what of outcomes is known. */
export function holds(m: Model, condition: Condition, record: Known['record']): boolean {
  switch (condition.kind) {
    case 'all':
      return condition.of.every((part) => holds(m, part, record));
    case 'any':
      return condition.of.some((part) => holds(m, part, record));
    case 'not':
      return !holds(m, condition.of, record);
    case 'outcome':
      return outcomesOf(m, condition.stage)?.includes(condition.outcome) ?? false;
    case 'record': {
      const value = record[condition.field];
      return value !== undefined && (value.id === condition.value) === (condition.is === 'is');
    }
    case 'fact': {
      const value = m.facts[condition.fact];
      return value !== undefined && compared(value, condition.is, condition.value);
    }
  }
}

function compared(value: FactValue, is: string, other: FactValue): boolean {
  if (value.kind === 'amount' && other.kind === 'amount' && value.currency === other.currency) {
    const by = value.thousandths - other.thousandths;
    const all: Record<string, boolean> = {
      over: by > 0,
      atLeast: by >= 0,
      under: by < 0,
      atMost: by <= 0,
      is: by === 0,
    };
    return all[is] ?? by !== 0;
  }
  return false;
}
