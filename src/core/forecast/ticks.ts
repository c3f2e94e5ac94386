import { day, minute } from '../time/calendar';
import type { Instant } from '../time/instant';
import type { Span } from '../time/presence';

/** A forecast counts in quarter hours from its start: instants as well as work. */
export const tick = 15 * minute;
export const ticksADay = day / tick;
/** A working day in quarter hours, in which waits count and dates are told. */
export const workday = 34;
/** How far a forecast looks: what takes longer ends here. */
export const horizon = 400 * ticksADay;

/** The start of a forecast made at an instant: the full quarter hour before. */
export function startAt(now: Instant): Instant {
  return Math.floor(now / tick) * tick;
}

/** Somebody's working time within the horizon, both ways. */
export interface Ticks {
  /** How much has been worked before a tick. */
  readonly workAt: Int32Array;
  /** The tick at whose beginning so much has been worked; for nothing, 0. */
  readonly tickAt: Int32Array;
}

/** Working time from stretches of work, in order and apart. A quarter hour counts by its middle. */
export function ticksOf(stretches: readonly Span[], start: Instant): Ticks {
  const workAt = new Int32Array(horizon + 1);
  const tickAt = new Int32Array(horizon + 1);
  let at = 0;
  let work = 0;
  const half = tick / 2;
  const tickOf = (instant: Instant) => Math.min(horizon, Math.max(0, Math.ceil((instant - start - half) / tick)));
  for (const { from, to } of stretches) {
    const [begin, end] = [tickOf(from), tickOf(to)];
    for (; at < begin; at += 1) workAt[at] = work;
    for (; at < end; at += 1) {
      workAt[at] = work;
      work += 1;
      tickAt[work] = at + 1;
    }
  }
  workAt.fill(work, at);
  tickAt.fill(horizon, work + 1);
  return { workAt, tickAt };
}

/** When so much work is done that begins at a tick; at once for none. */
export function workedOff({ workAt, tickAt }: Ticks, begin: number, work: number): number {
  if (work <= 0) return begin;
  const target = (workAt[begin] as number) + work;
  return target > horizon ? horizon : (tickAt[target] as number);
}

export function instantOfTick(start: Instant, at: number): Instant {
  return start + at * tick;
}
