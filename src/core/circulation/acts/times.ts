import { type Refusal, refusal } from '../../refusals';
import { instantOf } from '../../route/route';
import type { Instant } from '../../time/instant';
import type { SeatRun, StageTimes } from '../run/shapes';

// What times can be given.

export interface Times {
  readonly due: Instant | null;
  readonly closes: Instant | null;
}

/** Refuses times that lie in the past or in the wrong order; null when they are fit. */
export function badTimes(due: Instant | null, closes: Instant | null, now: number): Refusal | null {
  if ((due !== null && due <= now) || (closes !== null && closes <= now)) return refusal('time-past');
  return due !== null && closes !== null && closes < due ? refusal('closes-before-due') : null;
}

export function badStageTimes(times: StageTimes, now: number): Refusal | null {
  return badTimes(instantOf(times.due), instantOf(times.closes), now);
}

/** The times a seat has after a command that may give new ones; old ones that have passed are not taken over. */
export function timesAfter(seat: SeatRun, given: Times, now: number): Refusal | Times {
  if (hasClosed(seat, now) && given.closes === null && given.due === null) return refusal('time-needed');
  const ahead = (at: Instant | null) => (at !== null && at > now ? at : null);
  const due = given.due ?? ahead(seat.due);
  const closes = given.closes ?? ahead(seat.closes);
  return badTimes(due, closes, now) ?? { due, closes };
}

/** The times of a seat as whoever gives it others finds them; a new one is needed where its closing has passed. */
export function timesToGive(seat: SeatRun, now: number) {
  return { due: seat.due, closes: seat.closes, timeNeeded: hasClosed(seat, now) };
}

function hasClosed({ closes }: SeatRun, now: number): boolean {
  return closes !== null && closes <= now;
}
