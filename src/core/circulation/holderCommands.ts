import { spanOf } from '../people/cover';
import { type Refusal, refusal } from '../refusals';
import type { Instant } from '../route/route';
import { isPositive, outcomesFor } from '../route/verbs';
import { shifted } from '../time/due';
import type { CommandOf, Context } from './commands';
import { type PayloadHash, system, type Wait } from './events';
import type { Draft } from './evolve';
import { actingAs, isAuthorApproving, otherSeatInStage, respondedElsewhere, samePerson } from './holders';
import { beginRework, type Emit, type EmitAs } from './settle';
import {
  baseHolder,
  type Circulation,
  commentOfDecision,
  earlier,
  filesOf,
  heldBy,
  newest,
  openQuestions,
  plannedStages,
  presentFields,
  type Question,
  type SeatRun,
  scopeIn,
  scopeOf,
  stagePlanOf,
  waitsTold,
} from './state';
import { clockOf, dueMoved, targetsOf, waitsUntil, waitsWhenAsked, waitWhenOpened } from './times';

// What the holder of a seat does with it: look, decide, delegate. Each emits its events or gives a refusal.

/** Refuses content that is not what the seat decides on now, naming the version seen and the newest; null when it is. */
function staleVersion(draft: Draft, seat: SeatRun, scope: string): Refusal | null {
  const version = newest(draft);
  if (!version) return refusal('no-version');
  if (scopeOf(draft, seat) === scope) return null;
  const seen = draft.versions.findLast((candidate) => scopeIn(draft, seat, candidate) === scope);
  // In the same version, it is the values or what the seat decides on that have changed.
  return seen && seen.number !== version.number
    ? refusal('stale-version', { seen: seen.number, newest: version.number })
    : refusal('stale-content');
}

/** Notes that a holder opened the content they are asked about; looking twice is looking once. */
export function see(
  draft: Draft,
  seat: SeatRun,
  command: CommandOf<'see'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const stale = staleVersion(draft, seat, command.scope);
  if (stale) return stale;
  const wait = waitWhenOpened(draft, seat, context.actor, context);
  const moved = wait && dueMoved(draft, { ...seat, waits: [...seat.waits, { ...wait, told: false }] }, context);
  const due = moved === seat.due ? null : moved;
  emit({ type: 'seat.seen', data: { seat: seat.id, epoch: seat.epoch, scope: command.scope, wait, due } });
  return null;
}

/** Decides a seat on the content it is asked about; a return begins rework at once. */
export function decideSeat(
  draft: Draft,
  seat: SeatRun,
  command: CommandOf<'decide'>,
  context: Context,
  emitAs: EmitAs,
): Refusal | null {
  const stale = staleVersion(draft, seat, command.scope);
  if (stale) return stale;
  const { outcome, note, filled, evidence, scope } = command;
  const plan = stagePlanOf(draft, seat);
  if (!outcomesFor(plan).includes(outcome)) return refusal('wrong-outcome');
  // Declining is always possible; everything else waits for its time.
  const waits = outcome === 'declined' ? null : waitsUntil(draft, seat, context.actor, context);
  if (waits === 'opened') return refusal('open-first');
  if (waits !== null) return refusal('too-early', { from: waits });
  const unnamed = isPositive(outcome) ? unnamedBy(draft, seat)[0] : undefined;
  if (unnamed) return refusal('name-missing', { seat: unnamed.id });
  if (!isPositive(outcome) && !note) return refusal('reason-missing');
  if (outcome === 'signed') {
    const given = new Set(filled.map((entry) => entry.field));
    const own = presentFields(draft).filter((field) => field.seat === seat.id);
    if (own.some((field) => field.needed && !given.has(field.id))) return refusal('fields-missing');
    if (filled.some((entry) => !own.some((field) => field.id === entry.field))) return refusal('fields-unfit');
  } else if (filled.length > 0) return refusal('fields-unfit');
  const links = actingAs(draft, seat, context.actor, context)?.cover ?? [];
  const covered = links[0]?.person ?? null;
  const holder = baseHolder(seat)?.person ?? covered ?? context.actor;
  const cover = covered === null ? null : { absences: links.map((link) => link.absence), until: spanOf(links).to };
  emitAs(
    context.actor,
    covered ?? (context.actor === holder ? null : holder),
  )({
    type: 'seat.decided',
    data: { seat: seat.id, epoch: seat.epoch, holder, outcome, scope, note, filled, evidence, cover },
  });
  if (outcome === 'approvedWithComments' && note) commentWith(draft, seat, note, emitAs(context.actor, null));
  // A gathered return waits for the others of its stage; the next walk sees to it.
  if (outcome === 'returned' && plan.onReturn === 'atOnce')
    beginRework(draft, 'returned', seat.id, emitAs(system, null));
  return null;
}

/** What an approval asks to be minded stays open among the comments until somebody has minded it. */
function commentWith(draft: Draft, seat: SeatRun, note: PayloadHash, emit: Emit): void {
  const version = newest(draft);
  const file = version && filesOf(draft, seat.id, version)[0]?.file;
  if (!file) return;
  const comment = commentOfDecision(draft.decisions.length);
  emit({ type: 'comment.made', data: { comment, thread: null, file, spot: null, note } });
}

/** Passes the seat on to somebody whom no rule keeps from it. */
export function delegate(
  draft: Draft,
  seat: SeatRun,
  command: CommandOf<'delegate'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const { to, note } = command;
  const bad = undelegable(draft, seat, to, context);
  if (bad) return bad;
  if (stagePlanOf(draft, seat).allows.delegate === 'agreed' && context.actor !== draft.controller) {
    if (seat.proposal?.to === to) return refusal('no-effect');
    emit({ type: 'delegation.asked', data: { seat: seat.id, to, note } });
    return null;
  }
  return passOn(draft, seat, { to, note, from: context.actor }, context, emit);
}

/** Why a task cannot be passed on to somebody: members pass on to members, people outside to people outside. */
function undelegable(draft: Draft, seat: SeatRun, to: string, context: Context): Refusal | null {
  const bad = unfit(draft, seat, to, context);
  if (bad) return bad;
  if ((context.people.get(to)?.outside ?? false) !== (baseHolder(seat)?.outside ?? false))
    return refusal('outside-not-here');
  return seat.barred.includes(to) ? refusal('barred') : null;
}

/** Passes a task on: its epoch rises, so that old pages and links die. */
export function passOn(
  draft: Draft,
  seat: SeatRun,
  { to, note, from }: { readonly to: string; readonly note: PayloadHash | null; readonly from: string },
  context: Context,
  emit: Emit,
): Refusal | null {
  const bad = undelegable(draft, seat, to, context);
  if (bad) return bad;
  const outside = baseHolder(seat)?.outside ?? false;
  const waits = waitsWhenAsked(draft, seat, [to], context);
  const holder = { person: to, via: 'delegated', outside, since: context.now } as const;
  const then = asAsked({ ...seat, group: null, holders: heldBy(seat, holder) }, waits, context);
  const due = dueMoved(draft, then, context);
  const scope = scopeOf(draft, seat);
  emit({
    type: 'seat.delegated',
    data: { seat: seat.id, from, to, outside, epoch: seat.epoch + 1, due, scope, note, waits },
  });
  return null;
}

/** A seat as it is once somebody is asked with these waits. */
export function asAsked(seat: SeatRun, waits: readonly Wait[], { now }: Context): SeatRun {
  return {
    ...seat,
    status: 'asked',
    since: seat.since ?? now,
    waits: [...waitsTold(seat.waits), ...waits.map((wait) => ({ ...wait, told: false }))],
  };
}

/** Asks something before responding. By rule the due of the seat waits for the answer, once. */
export function askQuestion(
  draft: Draft,
  seat: SeatRun,
  { question, note }: CommandOf<'askQuestion'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  if (draft.questions.has(question)) return refusal('no-effect');
  const waits = context.rules.questionsWait && seat.due !== null && !seat.waited;
  emit({ type: 'question.asked', data: { question, seat: seat.id, note, waits } });
  return null;
}

/** Answers a question. What the seat has waited for it is added to its due, never to its closing. */
export function answerQuestion(
  draft: Draft,
  question: Question,
  { note }: CommandOf<'answerQuestion'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const seat = draft.seats.get(question.seat);
  const last = openQuestions(draft).every((other) => other.seat !== question.seat || other.id === question.id);
  const due = seat && last ? dueAfterAsking(draft, seat, context) : null;
  emit({ type: 'question.answered', data: { question: question.id, seat: question.seat, note, due } });
  return null;
}

/** The due of a seat whose question is answered now; null where it has not waited. A pause is counted by its own end. */
function dueAfterAsking(draft: Draft, seat: SeatRun, context: Context): Instant | null {
  if (seat.asking === null || seat.due === null) return null;
  const to = Math.max(seat.asking, draft.still ?? context.now);
  const person = baseHolder(seat)?.person ?? null;
  const due = shifted(seat.due, targetsOf(draft, seat).due, { from: seat.asking, to }, clockOf(context, person));
  return earlier(due, seat.closes);
}

/** Takes a group's task: from then on the others leave it to the one who took it. */
export function take(draft: Draft, seat: SeatRun, context: Context, emit: Emit): Refusal | null {
  const holder = { person: context.actor, via: 'taken', outside: false, since: context.now } as const;
  const due = dueMoved(draft, { ...seat, holders: heldBy(seat, holder) }, context);
  emit({ type: 'seat.taken', data: { seat: seat.id, person: context.actor, due } });
  return null;
}

/** Gives a task back to its group, by whoever took it or the controller. */
export function giveBack(seat: SeatRun, emit: Emit): Refusal | null {
  const person = baseHolder(seat)?.person;
  if (person === undefined) return refusal('not-taken');
  emit({ type: 'seat.givenBack', data: { seat: seat.id, person } });
  return null;
}

/** The seats whose holder this one still has to name: planned so, and nobody has been named or given. */
export function unnamedBy(draft: Pick<Circulation, 'plan' | 'retired' | 'seats' | 'stages'>, seat: SeatRun): SeatRun[] {
  return namedBy(draft, seat).filter((other) => other.status === 'idle' && baseHolder(other) === null);
}

/** The seats whose holder is named by this one, as planned, as long as they take part. */
export function namedBy(draft: Pick<Circulation, 'plan' | 'retired' | 'seats' | 'stages'>, seat: SeatRun): SeatRun[] {
  return plannedStages(draft).flatMap((stage) =>
    stage.seats.flatMap(({ id, assignment }) => {
      const other = draft.seats.get(id);
      const named = assignment.kind === 'named' && assignment.by === seat.planned;
      return named && other && !other.gone && !draft.stages.get(stage.id)?.gone ? [other] : [];
    }),
  );
}

/** The seats whose holder this one may name now: not asked yet, and not given to somebody by the controller. */
export function nameable(draft: Pick<Circulation, 'plan' | 'retired' | 'seats' | 'stages'>, seat: SeatRun): SeatRun[] {
  return namedBy(draft, seat).filter(
    (other) => other.status === 'idle' && other.holders.every(({ via }) => via === 'named' || via === 'second'),
  );
}

/** Names who holds a later seat; can be changed until the namer has decided. */
export function name(
  draft: Draft,
  seat: SeatRun,
  command: CommandOf<'name'>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const { names, to } = command;
  const other = nameable(draft, seat).find((own) => own.id === names);
  if (!other) return refusal('not-to-name');
  const bad = unfit(draft, other, to, context);
  if (bad) return bad;
  const outside = context.people.get(to)?.outside ?? false;
  // Somebody outside knows nobody inside.
  if (baseHolder(seat)?.outside && !outside) return refusal('outside-not-here');
  if (other.barred.includes(to)) return refusal('barred');
  emit({ type: 'seat.named', data: { seat: names, by: seat.id, to, outside, epoch: other.epoch + 1 } });
  return null;
}

/** Why a person cannot be given a seat, by whomever; null when they can. */
export function unfit(draft: Draft, seat: SeatRun, person: string, context: Context): Refusal | null {
  if (seat.holders.some((holder) => samePerson(context, holder.person, person))) return refusal('same-person');
  if (context.people.get(person)?.active === false) return refusal('person-left');
  if (isAuthorApproving(draft, seat, person, context)) return refusal('author-decides');
  if (respondedElsewhere(draft, seat, person, context)) return refusal('independent');
  return otherSeatInStage(draft, seat, person, context) ? refusal('in-stage-already') : null;
}
