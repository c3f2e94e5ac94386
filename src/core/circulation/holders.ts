import type { Context } from './commands';
import type { Holder } from './events';
import { type Circulation, decisionOf, type SeatRun, stagePlanOf } from './state';

/**
 * Who may act on a seat now, possibly nobody: the only place that says so. Whoever has left may not, and nobody whom a
 * rule keeps from the seat.
 */
export function holders(
  state: Pick<Circulation, 'plan' | 'author'>,
  seat: SeatRun,
  context: Pick<Context, 'people' | 'rules'>,
): Holder[] {
  return seat.holders.filter(
    ({ person }) => context.people.get(person)?.active !== false && !isAuthorApproving(state, seat, person, context),
  );
}

/** Whether two entries are one person, who counts once and does not approve their own text under either of them. */
export function samePerson({ people }: Pick<Context, 'people'>, a: string, b: string): boolean {
  if (a === b) return true;
  const identity = people.get(a)?.identity;
  return identity !== undefined && identity === people.get(b)?.identity;
}

export function mayAct(state: Circulation, seat: SeatRun, person: string, context: Context): boolean {
  return holders(state, seat, context).some((holder) => holder.person === person);
}

/** Whether a seat waits, or will wait, for somebody, and nobody is left who could act on it. */
export function isDeserted(state: Circulation, seat: SeatRun, context: Context): boolean {
  const waits = seat.status === 'asked' || seat.status === 'idle' || seat.status === 'suspended';
  return waits && !seat.gone && !state.ended && holders(state, seat, context).length === 0;
}

/** Whether the person would approve their own text from this seat. */
export function isAuthorApproving(
  state: Pick<Circulation, 'plan' | 'author'>,
  seat: { readonly stage: string },
  person: string,
  context: Pick<Context, 'people' | 'rules'>,
): boolean {
  return (
    samePerson(context, person, state.author) &&
    !context.rules.authorApproves &&
    stagePlanOf(state, seat).verb === 'approve'
  );
}

/** Another seat of the same stage that this person holds or has decided: a person counts once in a stage. */
export function otherSeatInStage(
  state: Circulation,
  seat: SeatRun,
  person: string,
  context: Pick<Context, 'people'>,
): SeatRun | null {
  const same = (other: string) => samePerson(context, other, person);
  for (const id of state.stages.get(seat.stage)?.seats ?? []) {
    const other = state.seats.get(id);
    if (!other || other.gone || other.id === seat.id) continue;
    const decision = other.status === 'decided' || other.status === 'returned' ? decisionOf(state, other) : null;
    if (decision ? same(decision.by) : other.holders.some((holder) => same(holder.person))) return other;
  }
  return null;
}
