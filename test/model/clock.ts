import { Temporal } from 'temporal-polyfill';
import type { Duration, Time } from '@/core/route/route';
import type { Calendar } from '@/core/time/calendar';

// Working time as TIME.md tells it, a day at a time: plain and slow, and nothing of the code that is held against it.

type Stretch = readonly [from: number, to: number];

const known = new Map<string, readonly Stretch[]>();

function isFree({ holidays }: Calendar, date: Temporal.PlainDate): boolean {
  return holidays.some((holiday) => holiday.day === date.toString());
}

function hoursOn(calendar: Calendar, date: Temporal.PlainDate) {
  return isFree(calendar, date) ? [] : (calendar.week[date.dayOfWeek - 1] ?? []);
}

/** The stretches of work of one local date: its hours as the wall clock shows them, whatever the clock does that day. */
function workOn(calendar: Calendar, zone: string, date: Temporal.PlainDate): readonly Stretch[] {
  const key = `${calendar.id} ${zone} ${date}`;
  const found = known.get(key);
  if (found) return found;
  const stretches: Stretch[] = [];
  const end = date.add({ days: 1 }).toZonedDateTime(zone).epochMilliseconds;
  let at = date.toZonedDateTime(zone);
  while (at.epochMilliseconds < end) {
    const next = at.getTimeZoneTransition('next')?.epochMilliseconds ?? Number.POSITIVE_INFINITY;
    // Midnight of that date as the clock of this period would show it.
    const midnight = Date.parse(`${date}T00:00:00Z`) - at.offsetNanoseconds / 1e6;
    for (const { from, to } of hoursOn(calendar, date)) {
      const stretch = [
        Math.max(at.epochMilliseconds, midnight + from * 60_000),
        Math.min(next, end, midnight + to * 60_000),
      ] as const;
      if (stretch[0] < stretch[1]) stretches.push(stretch);
    }
    if (next >= end) break;
    at = Temporal.Instant.fromEpochMilliseconds(next).toZonedDateTimeISO(zone);
  }
  stretches.sort((a, b) => a[0] - b[0]);
  known.set(key, stretches);
  return stretches;
}

export interface Clock {
  readonly zone: string;
  /** Somebody's own hours, and the organization's, by which dates count. */
  readonly own: Calendar;
  readonly common: Calendar;
}

const dateOf = (at: number, zone: string) =>
  Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(zone).toPlainDate();

/** The instant at which so many milliseconds have been worked. */
function addWorking(calendar: Calendar, zone: string, from: number, work: number): number {
  if (work <= 0) return from;
  let left = work;
  for (let date = dateOf(from, zone); ; date = date.add({ days: 1 }))
    for (const [begin, end] of workOn(calendar, zone, date)) {
      const length = end - Math.max(begin, from);
      if (length <= 0) continue;
      if (length >= left) return Math.max(begin, from) + left;
      left -= length;
    }
}

function worked(calendar: Calendar, zone: string, from: number, to: number): number {
  let sum = 0;
  const last = dateOf(to, zone);
  for (let date = dateOf(from, zone); Temporal.PlainDate.compare(date, last) <= 0; date = date.add({ days: 1 }))
    for (const [begin, end] of workOn(calendar, zone, date))
      sum += Math.max(0, Math.min(end, to) - Math.max(begin, from));
  return sum;
}

/** The end of the n-th working date strictly after the date of asking; 0 is the end of today while that is still open. */
function endOfWorkingDay({ zone, own, common }: Clock, from: number, n: number): number {
  let left = n;
  for (let date = dateOf(from, zone).add({ days: n === 0 ? 0 : 1 }); ; date = date.add({ days: 1 })) {
    if (hoursOn(common, date).length === 0) continue;
    const hours = hoursOn(own, date).length > 0 ? own : common;
    const end = workOn(hours, zone, date).at(-1)?.[1];
    if (end === undefined || end <= from) continue;
    left -= 1;
    if (left <= 0) return end;
  }
}

export function after(from: number, { amount, unit }: Duration, clock: Clock): number {
  const { zone, own } = clock;
  if (unit === 'days')
    return Temporal.Instant.fromEpochMilliseconds(from).toZonedDateTimeISO(zone).add({ days: amount })
      .epochMilliseconds;
  return unit === 'workingHours'
    ? addWorking(own, zone, from, amount * 3_600_000)
    : endOfWorkingDay(clock, from, amount);
}

/** What a time means to somebody who is asked at an instant. */
export function timeFor(time: Time | null, asked: number, clock: Clock): number | null {
  if (time === null) return null;
  return time.kind === 'instant' ? time.at : after(asked, time, clock);
}

/** A time after clocks have stood still: plain time for instants and plain days, working time for working times. */
export function putOff(at: number, kind: Time | null, from: number, to: number, { zone, own }: Clock): number {
  if (kind?.kind !== 'after' || kind.unit === 'days') return at + Math.max(0, to - from);
  return addWorking(own, zone, at, worked(own, zone, from, to));
}
