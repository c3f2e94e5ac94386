import type { Duration, Time } from '../route/route';
import {
  addDays,
  addWorking,
  axisOf,
  type Calendar,
  endOfWorkingDay,
  localDay,
  usualCalendar,
  workingBetween,
  worksOn,
} from './calendar';
import type { Instant } from './instant';

/** Whose clock and calendar a time is counted on. */
export interface Clock {
  readonly zone: string;
  /** Their own hours. */
  readonly own: Calendar;
  /** The organization's, by which dates count. */
  readonly common: Calendar;
}

export const plainClock: Clock = { zone: 'UTC', own: usualCalendar, common: usualCalendar };

/** The instant so long after another, on somebody's clock. Null where no calendar reaches it. */
export function after(from: Instant, { amount, unit }: Duration, { zone, own, common }: Clock): Instant | null {
  if (unit === 'days') return addDays(zone, from, amount);
  const axis = axisOf(own, zone);
  return unit === 'workingHours'
    ? addWorking(axis, from, amount * 3_600_000)
    : endOfWorkingDay(axis, common, from, amount);
}

/** How many working dates of the organization end after an instant up to another, on somebody's clock. */
export function workingDays({ zone, common }: Clock, from: Instant, to: Instant): number {
  const axis = axisOf(common, zone);
  let days = 0;
  for (let number = localDay(axis, from) + 1; number <= localDay(axis, to); number += 1)
    if (worksOn(common, number)) days += 1;
  return days;
}

/** The instant that a time means for somebody who is asked at `asked`; null for none. */
export function timeFor(time: Time | null, asked: Instant, clock: Clock): Instant | null {
  if (time === null) return null;
  return time.kind === 'instant' ? time.at : after(asked, time, clock);
}

/**
 * A time after a stretch in which clocks stood still: later by that stretch, in working time where the time itself was
 * counted in it, in plain time else.
 */
export function shifted(
  at: Instant,
  kind: Time | null,
  still: { readonly from: Instant; readonly to: Instant },
  { zone, own }: Clock,
): Instant {
  if (kind?.kind !== 'after' || kind.unit === 'days') return at + Math.max(0, still.to - still.from);
  const axis = axisOf(own, zone);
  return addWorking(axis, at, workingBetween(axis, still.from, still.to)) ?? at + still.to - still.from;
}
