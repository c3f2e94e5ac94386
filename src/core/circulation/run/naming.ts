import type { SeatRun } from './shapes';
import { baseHolder, type Circulation, plannedStages } from './state';

// Seats whose holder is named by whoever holds another.

type Planned = Pick<Circulation, 'plan' | 'retired' | 'seats' | 'stages'>;

/** The seats whose holder this one still has to name: planned so, and nobody has been named or given. */
export function unnamedBy(state: Planned, seat: SeatRun): SeatRun[] {
  return namedBy(state, seat).filter((other) => other.status === 'idle' && baseHolder(other) === null);
}

/** The seats whose holder is named by this one, as planned, as long as they take part. */
export function namedBy(state: Planned, seat: SeatRun): SeatRun[] {
  return plannedStages(state).flatMap((stage) =>
    stage.seats.flatMap(({ id, assignment }) => {
      const other = state.seats.get(id);
      const named = assignment.kind === 'named' && assignment.by === seat.planned;
      return named && other && !other.gone && !state.stages.get(stage.id)?.gone ? [other] : [];
    }),
  );
}

/** The seats whose holder this one may name now: not asked yet, and not given to somebody by the controller. */
export function nameable(state: Planned, seat: SeatRun): SeatRun[] {
  return namedBy(state, seat).filter(
    (other) => other.status === 'idle' && other.holders.every(({ via }) => via === 'named' || via === 'second'),
  );
}
