import { type Field, fieldsMissing } from '../../page/fields';
import type { StageOutcome } from '../../route/condition';
import type { Facts } from '../../route/facts';
import {
  type Copies,
  copiesOf,
  instantOf,
  type Parallel,
  partsOf,
  type Seat,
  type Series,
  type Stage,
  stagesOf,
} from '../../route/route';
import { type Standing, type Tally, tally } from '../../route/tally';
import { type Outcome, verbFacts } from '../../route/verbs';
import type { Instant } from '../../time/instant';
import type { ReminderPlan } from '../../time/reminders';
import { canonical, type Json } from '../../trail/canonical';
import { hashOf } from '../../trail/sha256';
import type {
  BlockRun,
  CopyRun,
  Filled,
  Holder,
  Kept,
  Met,
  PayloadHash,
  ReworkCause,
  SeatRun,
  Spot,
  StageRun,
  Version,
  VersionFile,
  Whole,
} from './shapes';

export type Phase = 'new' | 'running' | 'rework' | 'finishing' | 'completed' | 'withdrawn';

/** A decision, never changed once made. `scope` names the exact content it was made on. */
export interface DecisionRecord {
  readonly seat: string;
  readonly holder: string;
  readonly by: string;
  readonly onBehalfOf: string | null;
  readonly outcome: Outcome;
  readonly scope: string;
  readonly version: number;
  readonly round: number;
  readonly at: Instant;
  readonly note: PayloadHash | null;
  readonly filled: readonly Filled[];
  readonly evidence: PayloadHash | null;
  /** Until when whoever made it covered for somebody; null where they did not. */
  readonly coverUntil: Instant | null;
}

export interface Comment {
  readonly id: string;
  readonly thread: string | null;
  readonly by: string;
  readonly at: Instant;
  readonly version: number;
  readonly file: string;
  readonly spot: Spot | null;
  readonly note: PayloadHash;
  readonly resolved: boolean;
}

/** What somebody who was asked wants to know before they respond. */
export interface Question {
  readonly id: string;
  readonly seat: string;
  readonly by: string;
  readonly at: Instant;
  readonly version: number;
  readonly note: PayloadHash;
  readonly answer: { readonly by: string; readonly at: Instant; readonly note: PayloadHash } | null;
}

/** A file with its fields laid on it, ready to be signed: nothing touches its pages any more. */
interface Frozen {
  /** The content it was made of. */
  readonly content: string;
  /** The frozen bytes, and behind them each increment that was added, as the file grew: a seat decides on the first. */
  readonly chain: readonly [string, ...string[]];
  /** The hash of the fields laid on it. */
  readonly fields: string;
  readonly at: Instant;
}

/** Everything a circulation is after its events so far: the plan as it stands, and beside it what has become of it. */
export interface Circulation {
  readonly number: string;
  /** The records it carries to their next revision, the leading one first. */
  readonly records: readonly string[];
  readonly change: string;
  readonly controller: string;
  /** Who controlled it before: they keep seeing it. */
  readonly formerControllers: readonly string[];
  readonly author: string;
  readonly batch: string | null;
  readonly begunBy: string | null;
  readonly phase: Phase;
  readonly round: number;
  readonly created: Instant;
  readonly sent: Instant | null;
  readonly ended: Instant | null;
  /** The instant of the newest event: time never runs back in a stream. */
  readonly last: Instant;
  readonly plan: Series;
  /** Stages that were removed from the plan, and those of which seats were, with these seats alone: what happened there is told. */
  readonly retired: readonly Stage[];
  /** How those who are asked are reminded; null until it is sent, as their document type says. */
  readonly reminders: ReminderPlan | null;
  /** How often the circulation has been amended. */
  readonly amendments: number;
  readonly note: PayloadHash | null;
  /** The values that conditions are decided from. */
  readonly facts: Facts;
  readonly factNames: Readonly<Record<string, string>>;
  /** Due and closing of the whole, as planned; and once it is sent, the instants. */
  readonly whole: Whole;
  readonly due: Instant | null;
  readonly closes: Instant | null;
  /** Since when it has been closed as a whole, and since when paused. */
  readonly closed: Instant | null;
  readonly paused: Instant | null;
  /** From when on the clocks of seats have stood still in this round: since it was closed or paused, whichever came first. */
  readonly still: Instant | null;
  readonly copies: ReadonlyMap<string, CopyRun>;
  readonly blocks: ReadonlyMap<string, BlockRun>;
  readonly stages: ReadonlyMap<string, StageRun>;
  readonly seats: ReadonlyMap<string, SeatRun>;
  readonly versions: readonly Version[];
  /** When the newest version was submitted. */
  readonly attached: Instant | null;
  readonly decisions: readonly DecisionRecord[];
  /** Signatures that other bytes have ended, for good, as indexes of decisions: the same bytes later are asked again. */
  readonly unsigned: readonly number[];
  /** Contents that a controller accepted as what an earlier decision was made on. */
  readonly acceptances: readonly Kept[];
  /** By id, in the order in which they were made. */
  readonly comments: ReadonlyMap<string, Comment>;
  readonly questions: ReadonlyMap<string, Question>;
  readonly fields: readonly Field[];
  /** By file: the content its fields were put on. */
  readonly fieldsOn: ReadonlyMap<string, string>;
  readonly frozen: ReadonlyMap<string, Frozen>;
  readonly rework: {
    readonly cause: ReworkCause;
    readonly seat: string | null;
    readonly at: Instant;
    readonly version: number;
  } | null;
  readonly finals: {
    readonly files: readonly { readonly id: string; readonly file: string }[];
    readonly identifier: string;
  } | null;
  readonly revisions: readonly { readonly record: string; readonly revision: string }[];
  /** Whether it is released by itself once nothing is open any more. */
  readonly releasesItself: boolean;
  /** The evidence sheet of its release. */
  readonly evidence: string | null;
}

interface PlanIndex {
  readonly order: readonly Stage[];
  readonly copies: readonly Copies[];
  readonly blocks: ReadonlyMap<string, Series | Parallel>;
  readonly stages: ReadonlyMap<string, Stage>;
  readonly seats: ReadonlyMap<string, { readonly seat: Seat; readonly stage: Stage }>;
}
// A plan is a value; what is looked up in it is computed once.
const indexes = new WeakMap<Series, PlanIndex>();

function indexOf(plan: Series): PlanIndex {
  let index = indexes.get(plan);
  if (!index) {
    const order = stagesOf(plan);
    index = {
      order,
      copies: copiesOf(plan),
      blocks: new Map(
        partsOf(plan).flatMap((part) =>
          part.kind === 'series' || part.kind === 'parallel' ? [[part.id, part] as const] : [],
        ),
      ),
      stages: new Map(order.map((stage) => [stage.id, stage])),
      seats: new Map(order.flatMap((stage) => stage.seats.map((seat) => [seat.id, { seat, stage }] as const))),
    };
    indexes.set(plan, index);
  }
  return index;
}

/** The planned stages in reading order. */
export function plannedStages(state: Pick<Circulation, 'plan'>): readonly Stage[] {
  return indexOf(state.plan).order;
}

/** The planned boards in reading order. */
export function plannedCopies(state: Pick<Circulation, 'plan'>): readonly Copies[] {
  return indexOf(state.plan).copies;
}

/** The seats of the plan with their stages, by their ids. */
export function plannedSeats(state: Pick<Circulation, 'plan'>): PlanIndex['seats'] {
  return indexOf(state.plan).seats;
}

/** The series and parallels of the plan, by their ids. */
export function plannedBlocks(state: Pick<Circulation, 'plan'>): ReadonlyMap<string, Series | Parallel> {
  return indexOf(state.plan).blocks;
}

/** The id of the n-th seat that a seat for every member of a group becomes. */
export function memberSeat(planned: string, n: number): string {
  return `${planned}__${n}`;
}

/** The plan of a seat, which for a member's seat is that of its group. */
export function seatPlan(state: Pick<Circulation, 'plan' | 'retired'>, seat: string): Seat | null {
  const { seats } = indexOf(state.plan);
  const own = seats.get(seat);
  if (own) return own.seat;
  const planned = seat.replace(/__\d+$/, '');
  return seats.get(planned)?.seat ?? retiredSeat(state, planned);
}

function retiredSeat({ retired }: Pick<Circulation, 'retired'>, id: string): Seat | null {
  for (const stage of retired) for (const seat of stage.seats) if (seat.id === id) return seat;
  return null;
}

/** The plan of a stage, as it was when it was removed where it has been. */
export function stagePlan(state: Pick<Circulation, 'plan' | 'retired'>, id: string): Stage {
  const stage = indexOf(state.plan).stages.get(id) ?? state.retired.find((one) => one.id === id);
  if (!stage) throw new Error(`no stage ${id} in the plan`);
  return stage;
}

/** The plan of the stage that a seat stands in. */
export function stagePlanOf(state: Pick<Circulation, 'plan' | 'retired'>, seat: { readonly stage: string }): Stage {
  return stagePlan(state, seat.stage);
}

/** The newest version submitted, or null before the first. */
export function newest(state: Pick<Circulation, 'versions'>): Version | null {
  return state.versions[state.versions.length - 1] ?? null;
}

/** The files that are read, decided on, signed and released. */
export function documentsOf(version: Version): VersionFile[] {
  return version.files.filter((file) => file.role === 'document');
}

/** The files of a version that a seat decides on. Attachments belong to everybody. */
export function filesOf(state: Pick<Circulation, 'plan' | 'retired'>, seat: string, version: Version): VersionFile[] {
  const wanted = seatPlan(state, seat)?.files ?? 'all';
  return version.files.filter((file) => wanted === 'all' || file.role === 'attachment' || wanted.includes(file.id));
}

const scopes = new WeakMap<Version, Map<string, string>>();

/**
 * The hash of what a seat decides on in a version: its files by content, or some of their pages by what those are made of,
 * the values it decides on, and for a signature the frozen bytes with their fields. Two scopes are the same exactly when the
 * seat would see the same. Where pages cannot be told apart, the whole file counts.
 */
export function scopeIn(
  state: Pick<Circulation, 'plan' | 'retired' | 'frozen' | 'facts'>,
  seat: { readonly id: string; readonly stage: string },
  version: Version,
): string {
  const signs = verbFacts[stagePlanOf(state, seat).verb].signs;
  const { pages = [], facts = [] } = seatPlan(state, seat.id) ?? {};
  const parts: Json[] = filesOf(state, seat.id, version).map((file) => {
    const frozen = signs ? state.frozen.get(file.id) : undefined;
    const some = signs ? null : printsIn(file, pages);
    // What a signature covers is the file whole.
    if (some) return [file.id, file.role, 'pages', some];
    return [file.id, file.role, file.file, frozen?.content === file.file ? frozen.chain[0] : null];
  });
  if (facts.length > 0) parts.push(facts.toSorted().map((fact) => [fact, (state.facts[fact] ?? null) as Json]));
  const text = canonical(parts);
  const known = scopes.get(version) ?? new Map<string, string>();
  scopes.set(version, known);
  const hash = known.get(text) ?? hashOf(text);
  known.set(text, hash);
  return hash;
}

/** What a seat decides on beside whole files, for whoever reads it: some pages, some values as they are now. */
export function decidesOn(
  state: Pick<Circulation, 'plan' | 'retired' | 'facts' | 'factNames' | 'versions'>,
  seat: { readonly id: string; readonly stage: string },
) {
  const version = newest(state);
  const { pages = [], facts = [] } = seatPlan(state, seat.id) ?? {};
  const signs = verbFacts[stagePlanOf(state, seat).verb].signs;
  const nameOf = (id: string) => version?.files.find((file) => file.id === id)?.name ?? '';
  return {
    pages: signs ? [] : pages.map(({ file, from, to }) => ({ file: nameOf(file), from, to })),
    values: facts.map((fact) => ({ name: state.factNames[fact] ?? '', value: state.facts[fact] ?? null })),
  };
}

/** What the pages are made of that a seat decides on in a file; null where it decides on the whole of it. */
function printsIn({ id, role, prints }: VersionFile, pages: Seat['pages']): Json[] | null {
  const own = pages.filter(({ file }) => file === id);
  if (own.length === 0 || role === 'attachment' || !prints) return null;
  const some = own.map(({ from, to }) => [from, to, prints.slice(from - 1, to)] as const);
  // Pages that are not there say nothing: then it is the file that counts.
  return some.every(([, , found]) => found.length > 0) ? some : null;
}

/** The scope of a seat in the newest version, or null before the first. */
export function scopeOf(
  state: Pick<Circulation, 'plan' | 'retired' | 'frozen' | 'facts' | 'versions'>,
  seat: { readonly id: string; readonly stage: string },
): string | null {
  const version = newest(state);
  return version && scopeIn(state, seat, version);
}

/** The planned holder of a seat, or who it was given to since; null where it waits for a name or a member of its group. */
export function baseHolder(seat: Pick<SeatRun, 'holders'>): Holder | null {
  return seat.holders.find((holder) => holder.via !== 'second') ?? null;
}

export function secondHolders(seat: SeatRun): string[] {
  return seat.holders.filter((holder) => holder.via === 'second').map((holder) => holder.person);
}

/** Who holds a seat once `holder` does: its second holders stay. */
export function heldBy(seat: SeatRun, holder: Holder): Holder[] {
  return [holder, ...seat.holders.filter(({ via, person }) => via === 'second' && person !== holder.person)];
}

export function decisionOf(state: Pick<Circulation, 'decisions'>, seat: SeatRun): DecisionRecord | null {
  return seat.decision === null ? null : (state.decisions[seat.decision] ?? null);
}

/** The seats of a stage, in order. */
export function seatsOfStage(state: Pick<Circulation, 'seats'>, stage: StageRun): SeatRun[] {
  return stage.seats.flatMap((id) => state.seats.get(id) ?? []);
}

/** Whether a response of the seat stands, whatever it was. */
export function hasResponded({ status }: Pick<SeatRun, 'status'>): boolean {
  return status === 'decided' || status === 'declined' || status === 'returned';
}

function standingOf(seat: SeatRun): Standing {
  if (seat.gone) return 'gone';
  if (seat.status === 'decided') return 'yes';
  return seat.status === 'idle' || seat.status === 'asked' || seat.status === 'suspended' ? 'open' : 'no';
}

/** How a stage stands against its rule. */
export function tallyOf(state: Pick<Circulation, 'plan' | 'retired' | 'seats'>, stage: StageRun): Tally {
  return tally(stagePlan(state, stage.id).rule, seatsOfStage(state, stage).map(standingOf), 'seats');
}

/** When somebody was first sent a content, in whichever seat; null where they were not. */
export function sentAt(state: Pick<Circulation, 'seats'>, person: string, scope: string | null): Instant | null {
  return firstOf(state, 'sent', person, scope);
}

/** When somebody first opened a content, in whichever seat they were asked about it; null where they have not. */
export function openedAt(state: Pick<Circulation, 'seats'>, person: string, scope: string | null): Instant | null {
  return firstOf(state, 'opened', person, scope);
}

function firstOf({ seats }: Pick<Circulation, 'seats'>, how: 'sent' | 'opened', person: string, scope: string | null) {
  let first: Instant | null = null;
  for (const seat of seats.values())
    for (const met of seat[how]) if (met.person === person && met.scope === scope) first = earlier(first, met.at);
  return first;
}

/**
 * The opening that says whether a seat has been seen: of what it asks now by somebody who holds it, in whichever seat, and
 * else the newest of anything before, since it came to whoever holds it.
 */
export function seenOf(
  state: Pick<Circulation, 'plan' | 'retired' | 'frozen' | 'facts' | 'versions' | 'seats'>,
  seat: SeatRun,
): Met | null {
  const scope = scopeOf(state, seat);
  for (const { person } of seat.holders) {
    const at = openedAt(state, person, scope);
    if (at !== null && scope !== null) return { person, scope, at };
  }
  const since = baseHolder(seat)?.since ?? 0;
  return seat.opened.findLast((met) => met.at >= since) ?? null;
}

/** Whether the clocks of seats run: whoever is asked can respond, is late, is reminded. */
export function clocksRun({ phase, paused }: Pick<Circulation, 'phase' | 'paused'>): boolean {
  return phase === 'running' && paused === null;
}

/** How many of a stage have said yes or may still do so. */
export function reachableOf(state: Pick<Circulation, 'seats'>, stage: StageRun): number {
  return seatsOfStage(state, stage).filter((seat) => ['yes', 'open'].includes(standingOf(seat))).length;
}

/** A decline that stops its stage until the controller answers it. */
export function isUnansweredStop(state: Pick<Circulation, 'plan' | 'retired'>, seat: SeatRun): boolean {
  return !seat.gone && seat.status === 'declined' && !seat.passed && stagePlanOf(state, seat).onDecline === 'stop';
}

/** Whether a stage is done by its rule: no return and no unanswered stop stands in it. */
export function isSatisfied(state: Pick<Circulation, 'plan' | 'retired' | 'seats'>, stage: StageRun): boolean {
  return (
    tallyOf(state, stage).met &&
    seatsOfStage(state, stage).every((seat) => seat.status !== 'returned' && !isUnansweredStop(state, seat))
  );
}

/** The signing seats that still have to sign or have signed, by plan. */
function signingSeats(state: Circulation): string[] {
  const ids: string[] = [];
  for (const plan of plannedStages(state)) {
    const run = state.stages.get(plan.id);
    if (!verbFacts[plan.verb].signs || !run || isOver(run)) continue;
    for (const seat of seatsOfStage(state, run)) if (!seat.gone && seat.status !== 'decided') ids.push(seat.id);
  }
  return ids;
}

/** The fields that stand on the newest version: those put on the content that a file still has. */
export function presentFields(state: Circulation): Field[] {
  const version = newest(state);
  const contents = new Map(version?.files.map((file) => [file.id, file.file]));
  return state.fields.filter((field) => contents.get(field.file) === state.fieldsOn.get(field.file));
}

/** The signing seats that have no signature field on the newest version; they keep signing from being asked. */
export function seatsWithoutField(state: Circulation): string[] {
  return fieldsMissing(signingSeats(state), presentFields(state));
}

/** A hash of the fields of one file, in the order they were put. */
export function fieldsHash(fields: readonly Field[], file: string): string {
  return hashOf(canonical(fields.filter((field) => field.file === file).map((field) => ({ ...field }))));
}

/** The frozen file as it has grown, for whoever reads or signs it. */
export function grownFile({ chain }: Frozen): string {
  return chain[chain.length - 1] ?? chain[0];
}

/** The documents that must be frozen before anybody can be asked to sign, and are not yet. */
export function filesToFreeze(state: Circulation): VersionFile[] {
  const version = newest(state);
  if (!version) return [];
  const wanted = new Set<string>();
  for (const plan of plannedStages(state))
    if (verbFacts[plan.verb].signs && !state.stages.get(plan.id)?.gone)
      for (const seat of plan.seats) for (const file of filesOf(state, seat.id, version)) wanted.add(file.id);
  return documentsOf(version).filter((file) => wanted.has(file.id) && state.frozen.get(file.id)?.content !== file.file);
}

/** Whether a signature stands, or would stand again, on the frozen pages of a file. */
export function isSigned(state: Circulation, file: string): boolean {
  const version = newest(state);
  if (!version) return false;
  return state.decisions.some((decision, i) => {
    const seat = state.seats.get(decision.seat);
    return (
      decision.outcome === 'signed' &&
      !state.unsigned.includes(i) &&
      seat !== undefined &&
      decision.scope === scopeIn(state, seat, version) &&
      filesOf(state, seat.id, version).some((candidate) => candidate.id === file)
    );
  });
}

/** Whether nothing happens in a stage any more in this round: it has ended, or is not part of the route. */
export function isOver(stage: StageRun | undefined): boolean {
  return !stage || stage.gone !== null || stage.status === 'done' || stage.status === 'released';
}

/** Whether the rule of a stage can no longer be met. What is being returned does not wait for it any more. */
export function isStuck(state: Pick<Circulation, 'plan' | 'retired' | 'phase' | 'seats'>, stage: StageRun): boolean {
  return (
    stage.status === 'open' && stage.gone === null && !isGathering(state, stage) && !tallyOf(state, stage).reachable
  );
}

/** What of a circulation waits for its controller to decide how it goes on, and why. */
type Stop =
  | { readonly kind: 'closed'; readonly stage: null; readonly since: Instant }
  | { readonly kind: 'declined' | 'missed'; readonly seat: string; readonly stage: string; readonly since: Instant }
  | { readonly kind: 'stuck' | 'time' | 'crowd'; readonly stage: string; readonly since: Instant };

export function stopsOf(state: Circulation): Stop[] {
  if (state.closed !== null && state.ended === null) return [{ kind: 'closed', stage: null, since: state.closed }];
  if (state.phase !== 'running') return [];
  const stops: Stop[] = [];
  for (const stage of state.stages.values()) {
    if (stage.gone) continue;
    if ((stage.held === 'time' || stage.held === 'crowd') && (stage.status === 'idle' || stage.status === 'open'))
      stops.push({ kind: stage.held, stage: stage.id, since: instantOf(stage.closes) ?? state.last });
    if (stage.status !== 'open') continue;
    const all = stagePlan(state, stage.id).rule.kind === 'all';
    const stuck = isStuck(state, stage);
    let named = false;
    for (const seat of seatsOfStage(state, stage)) {
      if (seat.gone) continue;
      const since = seat.since ?? state.last;
      if (isUnansweredStop(state, seat) || (seat.status === 'declined' && stuck)) {
        stops.push({ kind: 'declined', seat: seat.id, stage: stage.id, since: decisionOf(state, seat)?.at ?? since });
        named = true;
      } else if (seat.status === 'missed' && (stuck || all)) {
        stops.push({ kind: 'missed', seat: seat.id, stage: stage.id, since: seat.closes ?? since });
        named = true;
      }
    }
    if (stuck && !named) stops.push({ kind: 'stuck', stage: stage.id, since: stage.since ?? state.last });
  }
  return stops;
}

/** The id of the comment that the n-th decision made. Nobody else's comment may be called so. */
export function commentOfDecision(n: number): string {
  return `decision-${n}`;
}

/** Whether a comment is one that a decision made. */
export function isOfDecision(comment: string): boolean {
  return comment.startsWith('decision-');
}

/** The comments that begin a thread and are not resolved. */
export function openComments(state: Pick<Circulation, 'comments'>): Comment[] {
  return [...state.comments.values()].filter((comment) => comment.thread === null && !comment.resolved);
}

/** Positive decisions that stand in this round, in the order of the plan. */
export function standing(state: Circulation): DecisionRecord[] {
  const found: DecisionRecord[] = [];
  for (const seat of state.seats.values()) {
    const decision = decisionOf(state, seat);
    // What was decided in a stage that is skipped now stays in the trail and does not count.
    if (decision && seat.status === 'decided' && !state.stages.get(seat.stage)?.gone) found.push(decision);
  }
  return found;
}

/**
 * When a seat is due for whoever reads it: by its own time or by the whole's, whichever comes first. While it waits for an
 * answer its own time does not count.
 */
export function dueOf(state: Pick<Circulation, 'due'>, seat: Pick<SeatRun, 'due' | 'asking'>): Instant | null {
  return earlier(seat.asking === null ? seat.due : null, state.due);
}

/** The questions that nobody has answered and whose seat still waits for a response; none once it has ended. */
export function openQuestions(state: Circulation): Question[] {
  if (state.ended !== null) return [];
  return [...state.questions.values()].filter((question) => {
    const status = state.seats.get(question.seat)?.status;
    return question.answer === null && (status === 'asked' || status === 'suspended');
  });
}

/** When a seat closes for whoever reads it, alone or with the whole. */
export function closesOf(state: Pick<Circulation, 'closes'>, seat: Pick<SeatRun, 'closes'>): Instant | null {
  return earlier(seat.closes, state.closes);
}

export function earlier(a: Instant | null, b: Instant | null): Instant | null {
  return a === null ? b : b === null ? a : Math.min(a, b);
}

/** The newest wait of a person on a seat, or null where nothing was counted for them. */
export function waitOf(seat: SeatRun, person: string): SeatRun['waits'][number] | null {
  return seat.waits.findLast((wait) => wait.person === person) ?? null;
}

/** The waits of which nobody is told any more when they end: all, or those of one person. */
export function waitsTold(waits: SeatRun['waits'], person: string | null = null): SeatRun['waits'] {
  return waits.map((wait) => (person === null || wait.person === person ? { ...wait, told: true } : wait));
}

/** Waits that still end while a seat is asked: the newest of everybody who was asked, where that end is known. */
export function pendingWaits(seat: SeatRun): { readonly person: string; readonly from: Instant }[] {
  if (seat.status !== 'asked') return [];
  return seat.waits.flatMap((wait) => {
    const { person, from, told } = wait;
    return from !== null && !told && waitOf(seat, person) === wait ? [{ person, from }] : [];
  });
}

/** How a stage has ended, as conditions further on see it; null while it has not. */
export function stageOutcomesOf(
  state: Pick<Circulation, 'stages' | 'seats' | 'decisions'>,
  stage: string,
): ReadonlySet<StageOutcome> | null {
  const run = state.stages.get(stage);
  if (!run || run.gone || (run.status !== 'done' && run.status !== 'released')) return null;
  const found = new Set<StageOutcome>();
  for (const seat of seatsOfStage(state, run)) {
    if (seat.gone) continue;
    if (seat.status === 'missed') found.add('missed');
    if (seat.status === 'declined') found.add('declined');
    if (seat.status === 'decided' && decisionOf(state, seat)?.outcome === 'approvedWithComments')
      found.add('approvedWithComments');
  }
  return found;
}

/** Whether a returned seat keeps a stage open until the others in it have responded. */
export function isGathering(
  state: Pick<Circulation, 'plan' | 'retired' | 'phase' | 'seats'>,
  stage: StageRun,
): boolean {
  return (
    state.phase === 'running' &&
    stage.status === 'open' &&
    seatsOfStage(state, stage).some((seat) => seat.status === 'returned' && !seat.gone)
  );
}
