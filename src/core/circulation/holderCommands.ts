import type { Command, Context } from './commands';
import { isPositive, outcomesOf, system } from './events';
import type { Draft } from './evolve';
import { actable, isAuthorApproving, isRefusal, staleVersion } from './guards';
import { type Refusal, refusal } from './refusal';
import type { Emit, EmitAs } from './settle';
import { holdersOf, seatAt, stageOf } from './state';

// What the holder of a seat can do with it: look, decide, hand over. Each emits its events or gives a refusal.

/** Notes that a holder opened the newest version; looking twice is looking once. */
export function see(
  draft: Draft,
  command: Extract<Command, { type: 'see' }>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const seat = seatAt(draft, command.seat);
  if (!seat) return refusal('no-such-seat');
  if (!holdersOf(seat).includes(context.actor)) return refusal('not-holder');
  if (seat.epoch !== command.epoch) return refusal('stale-seat');
  if (seat.status !== 'asked' || seat.seen?.scope === command.scope) return null;
  const stale = staleVersion(draft, command.scope);
  if (stale) return stale;
  emit({ type: 'seat.seen', data: { seat: seat.id, epoch: seat.epoch, scope: command.scope } });
  return null;
}

/** Decides a seat on the newest version; a return begins rework at once. */
export function decideSeat(
  draft: Draft,
  command: Extract<Command, { type: 'decide' }>,
  context: Context,
  emitAs: EmitAs,
): Refusal | null {
  const seat = actable(draft, command.seat, command.epoch, context);
  if (isRefusal(seat)) return seat;
  const stage = stageOf(draft, seat);
  const stale = staleVersion(draft, command.scope);
  if (stale) return stale;
  const { outcome, note, filled, evidence, scope } = command;
  if (!outcomesOf[stage.plan.verb].includes(outcome)) return refusal('wrong-outcome');
  if (!isPositive(outcome) && !note) return refusal('reason-missing');
  if (outcome === 'signed') {
    const given = new Set(filled.map((entry) => entry.field));
    const own = draft.fields.filter((field) => field.seat === seat.id);
    if (own.some((field) => field.needed && !given.has(field.id))) return refusal('fields-missing');
    if (filled.some((entry) => !own.some((field) => field.id === entry.field))) return refusal('fields-unfit');
  } else if (filled.length > 0) return refusal('fields-unfit');
  if (isAuthorApproving(draft, seat, context.actor)) return refusal('author-decides');
  emitAs(
    context.actor,
    context.actor === seat.holder ? null : seat.holder,
  )({ type: 'seat.decided', data: { seat: seat.id, epoch: seat.epoch, outcome, scope, note, filled, evidence } });
  if (outcome === 'returned')
    emitAs(system, null)({ type: 'rework.began', data: { cause: 'returned', seat: seat.id } });
  return null;
}

/** Passes the seat on where its stage allows it, to nobody whom a rule keeps from it. */
export function delegate(
  draft: Draft,
  command: Extract<Command, { type: 'delegate' }>,
  context: Context,
  emit: Emit,
): Refusal | null {
  const seat = actable(draft, command.seat, command.epoch, context);
  if (isRefusal(seat)) return seat;
  if (!stageOf(draft, seat).plan.delegate || seat.holder !== context.actor || seat.outside)
    return refusal('delegate-not-allowed');
  if (holdersOf(seat).includes(command.to)) return refusal('same-person');
  if (seat.barred.includes(command.to)) return refusal('barred');
  if (isAuthorApproving(draft, seat, command.to)) return refusal('author-decides');
  emit({
    type: 'seat.delegated',
    data: { seat: seat.id, from: seat.holder, to: command.to, epoch: seat.epoch + 1, note: command.note },
  });
  return null;
}
