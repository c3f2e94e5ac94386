import { fieldIdsOf } from '../../page/fields';
import { spanOf } from '../../people/cover';
import { type Refusal, refusal } from '../../refusals';
import { isPositive, outcomesFor, verbFacts } from '../../route/verbs';
import { shifted } from '../../time/due';
import type { Instant } from '../../time/instant';
import type { Context } from '../run/context';
import type { Draft } from '../run/evolve';
import { actingAs, mayAct } from '../run/holders';
import { unnamedBy } from '../run/naming';
import { beginRework, type Emit } from '../run/settle';
import type { PayloadHash, SeatRun } from '../run/shapes';
import {
  baseHolder,
  commentOfDecision,
  earlier,
  filesOf,
  newest,
  openedAt,
  openQuestions,
  presentFields,
  scopeIn,
  scopeOf,
  stagePlanOf,
} from '../run/state';
import { clockOf, dueMoved, targetsOf, waitsUntil, waitWhenOpened } from '../run/times';
import type { ActOn } from './act';
import type { CommandOf } from './commands';
import { actable, writesOrSteers } from './guarding';

// What the holder of a seat does with what they are asked: open it, ask something, decide.

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
export const see: ActOn<'seat', 'see'> = {
  on: 'seat',
  right: 'circulation.act',
  guard: (state, context, seat) => {
    if (!mayAct(state, seat, context.actor, context)) return refusal('not-holder');
    if (state.closed !== null) return refusal('closed');
    if (seat.status !== 'asked' || state.phase !== 'running') return refusal('seat-not-asked');
    // Looking twice is looking once, in whichever seat it was; whoever waits from opening it here opens it here.
    const begins = waitWhenOpened(state, seat, context.actor, context) !== null;
    return openedAt(state, context.actor, scopeOf(state, seat)) !== null && !begins ? refusal('no-effect') : null;
  },
  needs: (state, _context, seat) => ({ epoch: seat.epoch, scope: scopeOf(state, seat) ?? '' }),
  effect: ({ draft, context, emit }, { scope }, seat) => {
    const stale = staleVersion(draft, seat, scope);
    if (stale) return stale;
    const wait = waitWhenOpened(draft, seat, context.actor, context);
    const moved = wait && dueMoved(draft, { ...seat, waits: [...seat.waits, { ...wait, told: false }] }, context);
    const due = moved === seat.due ? null : moved;
    emit({ type: 'seat.seen', data: { seat: seat.id, epoch: seat.epoch, scope, wait, due } });
    return null;
  },
};

/** Decides a seat on the content it is asked about; a return begins rework at once. */
export const decide: ActOn<'seat', 'decide'> = {
  on: 'seat',
  right: 'circulation.act',
  guard: actable,
  needs: (state, context, seat) => {
    const waits = waitsUntil(state, seat, context.actor, context);
    const plan = stagePlanOf(state, seat);
    const all = outcomesFor(plan);
    // Declining is always possible; everything else waits for its time.
    const outcomes = waits === null ? all : all.filter((outcome) => outcome === 'declined');
    const unnamed = unnamedBy(state, seat).map(({ id }) => id);
    return {
      epoch: seat.epoch,
      scope: scopeOf(state, seat) ?? '',
      outcomes,
      yes: verbFacts[plan.verb].yes,
      ...(waits === null ? {} : { notBefore: waits }),
      ...(unnamed.length > 0 ? { unnamed } : {}),
      reasonFor: outcomes.filter((outcome) => !isPositive(outcome)),
      fields: fieldIdsOf(presentFields(state), seat.id),
    };
  },
  effect: ({ draft, context, emit, own, emitAs }, command, seat) => {
    const bad = responseFault(draft, seat, command, context);
    if (bad) return bad;
    const { outcome, note, filled, evidence, scope } = command;
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
    if (outcome === 'approvedWithComments' && note) commentWith(draft, seat, note, emit);
    // A gathered return waits for the others of its stage; the next walk sees to it.
    if (outcome === 'returned' && stagePlanOf(draft, seat).onReturn === 'atOnce')
      beginRework(draft, 'returned', seat.id, own);
    return null;
  },
};

/** Why a response cannot be given: on other content, too early, without its reason or its fields. */
function responseFault(
  draft: Draft,
  seat: SeatRun,
  { scope, outcome, note, filled }: CommandOf<'decide'>,
  context: Context,
): Refusal | null {
  const stale = staleVersion(draft, seat, scope);
  if (stale) return stale;
  if (!outcomesFor(stagePlanOf(draft, seat)).includes(outcome)) return refusal('wrong-outcome');
  const waits = outcome === 'declined' ? null : waitsUntil(draft, seat, context.actor, context);
  if (waits === 'opened') return refusal('open-first');
  if (waits !== null) return refusal('too-early', { from: waits });
  const unnamed = isPositive(outcome) ? unnamedBy(draft, seat)[0] : undefined;
  if (unnamed) return refusal('name-missing', { seat: unnamed.id });
  if (!isPositive(outcome) && !note) return refusal('reason-missing');
  if (outcome !== 'signed') return filled.length > 0 ? refusal('fields-unfit') : null;
  const given = new Set(filled.map((entry) => entry.field));
  const fields = presentFields(draft).filter((field) => field.seat === seat.id);
  if (fields.some((field) => field.needed && !given.has(field.id))) return refusal('fields-missing');
  return filled.some((entry) => !fields.some((field) => field.id === entry.field)) ? refusal('fields-unfit') : null;
}

/** What an approval asks to be minded stays open among the comments until somebody has minded it. */
function commentWith(draft: Draft, seat: SeatRun, note: PayloadHash, emit: Emit): void {
  const version = newest(draft);
  const file = version && filesOf(draft, seat.id, version)[0]?.file;
  if (!file) return;
  const comment = commentOfDecision(draft.decisions.length);
  emit({ type: 'comment.made', data: { comment, thread: null, file, spot: null, note } });
}

/** Asks something before responding. By rule the due of the seat waits for the answer, once. */
export const askQuestion: ActOn<'seat', 'askQuestion'> = {
  on: 'seat',
  right: 'circulation.act',
  guard: actable,
  needs: (_state, _context, { epoch }) => ({ epoch }),
  effect: ({ draft, context, emit }, { question, note }, seat) => {
    if (draft.questions.has(question)) return refusal('no-effect');
    const waits = context.rules.questionsWait && seat.due !== null && !seat.waited;
    emit({ type: 'question.asked', data: { question, seat: seat.id, note, waits } });
    return null;
  },
};

/**
 * Answers a question: the controller, or the author, as long as it still matters. What the seat has waited for it is added to
 * its due, never to its closing.
 */
export const answerQuestion: ActOn<'question', 'answerQuestion'> = {
  on: 'question',
  right: 'circulation.value',
  guard: (state, context, question) => {
    if (!writesOrSteers(state, context)) return refusal('not-author');
    if (question.answer) return refusal('answered-already');
    return openQuestions(state).includes(question) ? null : refusal('seat-not-asked');
  },
  effect: ({ draft, context, emit }, { note }, { id, seat: of }) => {
    const seat = draft.seats.get(of);
    const last = openQuestions(draft).every((other) => other.seat !== of || other.id === id);
    const due = seat && last ? dueAfterAsking(draft, seat, context) : null;
    emit({ type: 'question.answered', data: { question: id, seat: of, note, due } });
    return null;
  },
};

/** The due of a seat whose question is answered now; null where it has not waited. A pause is counted by its own end. */
function dueAfterAsking(draft: Draft, seat: SeatRun, context: Context): Instant | null {
  if (seat.asking === null || seat.due === null) return null;
  const to = Math.max(seat.asking, draft.still ?? context.now);
  const person = baseHolder(seat)?.person ?? null;
  const due = shifted(seat.due, targetsOf(draft, seat).due, { from: seat.asking, to }, clockOf(context, person));
  return earlier(due, seat.closes);
}
