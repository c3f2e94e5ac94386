import type { CommandOf, Context } from './commands';
import { isPositive, outcomesOf, type PayloadHash } from './events';
import type { Draft } from './evolve';
import { isAuthorApproving, otherSeatInStage, samePerson } from './holders';
import { type Refusal, refusal } from './refusal';
import { beginRework, type Emit, type EmitAs } from './settle';
import {
  baseHolder,
  commentOfDecision,
  filesOf,
  newest,
  presentFields,
  type SeatRun,
  scopeIn,
  scopeOf,
  stagePlanOf,
} from './state';

// What the holder of a seat does with it: look, decide, delegate. Each emits its events or gives a refusal.

/** Refuses content that is not what the seat decides on now, naming the version seen and the newest; null when it is. */
function staleVersion(draft: Draft, seat: SeatRun, scope: string): Refusal | null {
  const version = newest(draft);
  if (!version) return refusal('no-version');
  if (scopeOf(draft, seat) === scope) return null;
  const seen = draft.versions.findLast((candidate) => scopeIn(draft, seat, candidate) === scope);
  return refusal('stale-version', { seen: seen?.number ?? 0, newest: version.number });
}

/** Notes that a holder opened the content they are asked about; looking twice is looking once. */
export function see(draft: Draft, seat: SeatRun, command: CommandOf<'see'>, emit: Emit): Refusal | null {
  const stale = staleVersion(draft, seat, command.scope);
  if (stale) return stale;
  emit({ type: 'seat.seen', data: { seat: seat.id, epoch: seat.epoch, scope: command.scope } });
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
  if (!outcomesOf[stagePlanOf(draft, seat).verb].includes(outcome)) return refusal('wrong-outcome');
  if (!isPositive(outcome) && !note) return refusal('reason-missing');
  if (outcome === 'signed') {
    const given = new Set(filled.map((entry) => entry.field));
    const own = presentFields(draft).filter((field) => field.seat === seat.id);
    if (own.some((field) => field.needed && !given.has(field.id))) return refusal('fields-missing');
    if (filled.some((entry) => !own.some((field) => field.id === entry.field))) return refusal('fields-unfit');
  } else if (filled.length > 0) return refusal('fields-unfit');
  const holder = baseHolder(seat)?.person ?? context.actor;
  emitAs(
    context.actor,
    context.actor === holder ? null : holder,
  )({
    type: 'seat.decided',
    data: { seat: seat.id, epoch: seat.epoch, holder, outcome, scope, note, filled, evidence },
  });
  if (outcome === 'approvedWithComments' && note) commentWith(draft, seat, note, emitAs(context.actor, null));
  if (outcome === 'returned') beginRework(draft, 'returned', seat.id, emitAs);
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
  const bad = unfit(draft, seat, command.to, context);
  if (bad) return bad;
  if (context.people.get(command.to)?.outside) return refusal('outside-not-here');
  if (seat.barred.includes(command.to)) return refusal('barred');
  emit({
    type: 'seat.delegated',
    data: { seat: seat.id, from: context.actor, to: command.to, epoch: seat.epoch + 1, note: command.note },
  });
  return null;
}

/** Why a person cannot be given a seat, by whomever; null when they can. */
export function unfit(draft: Draft, seat: SeatRun, person: string, context: Context): Refusal | null {
  if (seat.holders.some((holder) => samePerson(context, holder.person, person))) return refusal('same-person');
  if (context.people.get(person)?.active === false) return refusal('person-left');
  if (isAuthorApproving(draft, seat, person, context)) return refusal('author-decides');
  return otherSeatInStage(draft, seat, person, context) ? refusal('in-stage-already') : null;
}
