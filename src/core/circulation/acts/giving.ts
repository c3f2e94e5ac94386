import { type Refusal, refusal } from '../../refusals';
import type { Context } from '../run/context';
import type { Draft } from '../run/evolve';
import { isAuthorApproving, otherSeatInStage, respondedElsewhere, samePerson } from '../run/holders';
import type { Emit } from '../run/settle';
import type { PayloadHash, SeatRun, Wait } from '../run/shapes';
import { baseHolder, type Circulation, heldBy, scopeOf, waitsTold } from '../run/state';
import { dueMoved, waitsWhenAsked } from '../run/times';

// What holds whenever somebody is given a seat, by whomever.

/** Why a person cannot be given a seat, by whomever; null when they can. */
export function unfit(draft: Draft, seat: SeatRun, person: string, context: Context): Refusal | null {
  if (seat.holders.some((holder) => samePerson(context, holder.person, person))) return refusal('same-person');
  if (context.people.get(person)?.active === false) return refusal('person-left');
  if (isAuthorApproving(draft, seat, person, context)) return refusal('author-decides');
  if (respondedElsewhere(draft, seat, person, context)) return refusal('independent');
  return otherSeatInStage(draft, seat, person, context) ? refusal('in-stage-already') : null;
}

/** The people who cannot be given the seat: who holds it, who counts in its stage already, and an approving author. */
export function notFor(state: Circulation, seat: SeatRun, context: Context): string[] {
  const people = ({ holders }: SeatRun) => holders.map((holder) => holder.person);
  const decided = state.decisions.map((decision) => decision.by);
  const named = new Set([state.author, ...[...state.seats.values()].flatMap(people), ...decided]);
  return [...named].filter(
    (person) =>
      people(seat).includes(person) ||
      isAuthorApproving(state, seat, person, context) ||
      respondedElsewhere(state, seat, person, context) ||
      otherSeatInStage(state, seat, person, context) !== null,
  );
}

/** Why a task cannot be passed on to somebody: members pass on to members, people outside to people outside. */
export function undelegable(draft: Draft, seat: SeatRun, to: string, context: Context): Refusal | null {
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
