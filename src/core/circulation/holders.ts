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
  { rules }: Pick<Context, 'rules'>,
): boolean {
  return person === state.author && !rules.authorApproves && stagePlanOf(state, seat).verb === 'approve';
}

/** Another seat of the same stage that this person holds or has decided: a person counts once in a stage. */
export function otherSeatInStage(state: Circulation, seat: SeatRun, person: string): SeatRun | null {
  for (const id of state.stages.get(seat.stage)?.seats ?? []) {
    const other = state.seats.get(id);
    if (!other || other.gone || other.id === seat.id) continue;
    const decision = other.status === 'decided' || other.status === 'returned' ? decisionOf(state, other) : null;
    if (decision ? decision.by === person : other.holders.some((holder) => holder.person === person)) return other;
  }
  return null;
}
