import { Temporal } from 'temporal-polyfill';
import type { Instant } from './instant';

/**
 * Working time: weekly hours and holidays of a calendar, on the clock of a zone. The hours are laid over the zone's periods
 * of constant offset, so that a change of the clock shortens or lengthens a day exactly by what people really work.
 */

/** Minutes after local midnight; the end is no longer worked. */
export interface Hours {
  readonly from: number;
  readonly to: number;
}

export interface Holiday {
  /** An ISO 8601 date. */
  readonly day: string;
  readonly name: string;
}

/** Weekly hours and holidays. It has no zone: people work its hours on their own clock. */
export interface Calendar {
  readonly id: string;
  readonly name: string;
  /** Seven days from Monday on (ISO 8601), each with its hours in order. */
  readonly week: readonly (readonly Hours[])[];
  readonly holidays: readonly Holiday[];
}

/** Monday to Friday, eight hours and a half: what holds where an organization has no calendar of its own. */
export const usualCalendar: Calendar = {
  id: 'usual',
  name: 'Monday to Friday',
  week: Array.from({ length: 7 }, (_, day) => (day < 5 ? [{ from: 450, to: 960 }] : [])),
  holidays: [],
};

export const minute = 60_000;
export const day = 1440 * minute;

type CalendarFault = 'week-unfit' | 'never-works' | 'holiday-unfit';

/** What makes a calendar unfit to count by, or null: hours out of order or over midnight, no hours at all, days that are none. */
export function calendarFault({ week, holidays }: Pick<Calendar, 'week' | 'holidays'>): CalendarFault | null {
  const whole = (n: number) => Number.isInteger(n) && n >= 0 && n <= 1440;
  if (week.length !== 7) return 'week-unfit';
  for (const hours of week)
    for (const [i, { from, to }] of hours.entries())
      if (!whole(from) || !whole(to) || from >= to || from < (hours[i - 1]?.to ?? 0)) return 'week-unfit';
  if (week.every((hours) => hours.length === 0)) return 'never-works';
  return holidays.every((holiday) => Number.isInteger(dayNumber(holiday.day))) ? null : 'holiday-unfit';
}

/** Days since 1970-01-01 of an ISO 8601 date; NaN when it is none. */
export function dayNumber(iso: string): number {
  const at = /^\d{4}-\d{2}-\d{2}$/.test(iso) ? Date.parse(`${iso}T00:00:00Z`) : Number.NaN;
  // 30 February would become March.
  return Number.isNaN(at) || dayOfNumber(at / day) !== iso ? Number.NaN : at / day;
}

export function dayOfNumber(number: number): string {
  return new Date(number * day).toISOString().slice(0, 10);
}

/** A stretch of time over which a zone's clock differs from UTC by the same milliseconds, up to where the next begins. */
interface Period {
  readonly from: Instant;
  readonly offset: number;
}

/** The periods of a zone from its first to its last year, in order. */
function periodsOf(zone: string, firstYear: number, lastYear: number): Period[] {
  const end = Date.UTC(lastYear + 1, 0, 3);
  let at: Temporal.ZonedDateTime | null = Temporal.Instant.fromEpochMilliseconds(
    Date.UTC(firstYear, 0, -1),
  ).toZonedDateTimeISO(zone);
  const periods: Period[] = [];
  while (at && at.epochMilliseconds < end) {
    periods.push({ from: at.epochMilliseconds, offset: Math.round(at.offsetNanoseconds / 1e6) });
    at = at.getTimeZoneTransition('next');
  }
  return periods;
}

/** The working time of a calendar on the clock of a zone, over the years that were asked for so far. */
export interface Axis {
  readonly calendar: Calendar;
  readonly zone: string;
  firstYear: number;
  lastYear: number;
  periods: readonly Period[];
  /** Merged stretches of work: where each begins and ends, and how much was worked before it. */
  begins: Float64Array;
  ends: Float64Array;
  worked: Float64Array;
}

const axes = new WeakMap<Calendar, Map<string, Axis>>();
/** No plan reaches further than this. */
const horizon = { first: 1971, last: 2199 } as const;

/** The axis of a calendar in a zone; made once, longer when it is asked for more years. */
export function axisOf(calendar: Calendar, zone: string): Axis {
  const known = axes.get(calendar) ?? new Map<string, Axis>();
  axes.set(calendar, known);
  const found = known.get(zone);
  if (found) return found;
  const none = new Float64Array(0);
  const axis: Axis = {
    calendar,
    zone,
    firstYear: 1,
    lastYear: 0,
    periods: [],
    begins: none,
    ends: none,
    worked: none,
  };
  known.set(zone, axis);
  return axis;
}

const yearOf = (at: Instant) => new Date(at).getUTCFullYear();

/** Sees to it that the axis covers an instant and a year on both sides of it. */
function cover(axis: Axis, at: Instant): void {
  const first = Math.max(horizon.first, yearOf(at) - 1);
  const last = Math.min(horizon.last, yearOf(at) + 1);
  if (first >= axis.firstYear && last <= axis.lastYear) return;
  const fresh = axis.lastYear === 0;
  axis.firstYear = fresh ? first : Math.min(first, axis.firstYear);
  axis.lastYear = fresh ? last : Math.max(last, axis.lastYear);
  axis.periods = periodsOf(axis.zone, axis.firstYear, axis.lastYear);
  const { week, holidays } = axis.calendar;
  const free = new Set(holidays.map((holiday) => dayNumber(holiday.day)));
  const begins: number[] = [];
  const ends: number[] = [];
  const limit = Date.UTC(axis.lastYear + 1, 0, 2);
  axis.periods.forEach(({ from, offset }, i) => {
    const until = Math.min(axis.periods[i + 1]?.from ?? limit, limit);
    for (let number = Math.floor((from + offset) / day); number * day - offset < until; number += 1) {
      if (free.has(number)) continue;
      for (const hours of week[weekday(number)] ?? []) {
        const begin = Math.max(from, number * day + hours.from * minute - offset);
        const end = Math.min(until, number * day + hours.to * minute - offset);
        if (begin >= end) continue;
        if (ends[ends.length - 1] === begin) ends[ends.length - 1] = end;
        else {
          begins.push(begin);
          ends.push(end);
        }
      }
    }
  });
  axis.begins = Float64Array.from(begins);
  axis.ends = Float64Array.from(ends);
  axis.worked = new Float64Array(begins.length + 1);
  for (let i = 0; i < begins.length; i += 1)
    axis.worked[i + 1] = (axis.worked[i] as number) + (ends[i] as number) - (begins[i] as number);
}

/** 0 for Monday to 6 for Sunday. */
function weekday(number: number): number {
  return (((number + 3) % 7) + 7) % 7;
}

/** How many entries of an ascending list are at most `value`. */
function countUpTo(list: Float64Array, value: number): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((list[middle] as number) <= value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Milliseconds worked on the axis before an instant, counted from where the axis begins. */
function workedAt(axis: Axis, at: Instant): number {
  const i = countUpTo(axis.begins, at) - 1;
  if (i < 0) return 0;
  return (axis.worked[i] as number) + Math.min(at, axis.ends[i] as number) - (axis.begins[i] as number);
}

/** Milliseconds of working time between two instants; negative when the second lies before the first. */
export function workingBetween(axis: Axis, from: Instant, to: Instant): number {
  cover(axis, from);
  cover(axis, to);
  return workedAt(axis, to) - workedAt(axis, from);
}

/**
 * The first instant at which `work` milliseconds of working time have passed since `from`; `from` itself for none. Null
 * where that lies beyond what any calendar is asked for, because a calendar hardly ever works.
 */
export function addWorking(axis: Axis, from: Instant, work: number): Instant | null {
  if (work <= 0) return from;
  cover(axis, from);
  for (;;) {
    const target = workedAt(axis, from) + work;
    // The stretch in which it is reached: the last one before which less was worked.
    let low = 0;
    let high = axis.begins.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((axis.worked[middle] as number) < target) low = middle + 1;
      else high = middle;
    }
    if (low > 0 && (axis.worked[low] as number) >= target)
      return (axis.begins[low - 1] as number) + target - (axis.worked[low - 1] as number);
    if (axis.lastYear >= horizon.last) return null;
    cover(axis, Date.UTC(Math.min(horizon.last, axis.lastYear + 2), 0, 1));
  }
}

/** The stretches of work between two instants, in order, cut off at both. */
export function stretchesBetween(axis: Axis, from: Instant, to: Instant): { from: Instant; to: Instant }[] {
  cover(axis, from);
  cover(axis, to);
  const found: { from: Instant; to: Instant }[] = [];
  for (let i = countUpTo(axis.ends, from); i < axis.begins.length && (axis.begins[i] as number) < to; i += 1)
    found.push({ from: Math.max(from, axis.begins[i] as number), to: Math.min(to, axis.ends[i] as number) });
  return found;
}

/** The first working instant at or after an instant; null where none comes. */
export function nextWorking(axis: Axis, at: Instant): Instant | null {
  cover(axis, at);
  const i = countUpTo(axis.ends, at);
  if (i < axis.begins.length) return Math.max(at, axis.begins[i] as number);
  const end = addWorking(axis, at, 1);
  return end === null ? null : end - 1;
}

export function isWorking(axis: Axis, at: Instant): boolean {
  return nextWorking(axis, at) === at;
}

/** The local date of an instant, as days since 1970-01-01. */
export function localDay(axis: Axis, at: Instant): number {
  cover(axis, at);
  return Math.floor((at + offsetAt(axis, at)) / day);
}

/** The first instant of a local date, given as days since 1970-01-01; null where a change of the clock left it out. */
export function dayBegins(axis: Axis, number: number): Instant | null {
  cover(axis, number * day);
  for (const [i, { from, offset }] of axis.periods.entries()) {
    const at = Math.max(from, number * day - offset);
    if (at < (axis.periods[i + 1]?.from ?? Number.POSITIVE_INFINITY) && Math.floor((at + offset) / day) === number)
      return at;
  }
  return null;
}

function offsetAt(axis: Axis, at: Instant): number {
  let offset = axis.periods[0]?.offset ?? 0;
  for (const period of axis.periods) {
    if (period.from > at) break;
    offset = period.offset;
  }
  return offset;
}

/** Whether a calendar works on a date, given as days since 1970-01-01. */
export function worksOn(calendar: Calendar, number: number): boolean {
  return (calendar.week[weekday(number)]?.length ?? 0) > 0 && !freeDays(calendar).has(number);
}

const free = new WeakMap<Calendar, ReadonlySet<number>>();
function freeDays(calendar: Calendar): ReadonlySet<number> {
  const found = free.get(calendar) ?? new Set(calendar.holidays.map((holiday) => dayNumber(holiday.day)));
  free.set(calendar, found);
  return found;
}

/** The first instant of a local date: its midnight, or where the clock skips that, the first moment there is. */
function beginOf(axis: Axis, number: number): Instant {
  cover(axis, number * day);
  for (let i = axis.periods.length - 1; i >= 0; i -= 1) {
    const { from, offset } = axis.periods[i] as Period;
    const at = number * day - offset;
    // In the period that holds it, unless an earlier one shows the same midnight first.
    if (at < from && i > 0) {
      const before = axis.periods[i - 1] as Period;
      if (number * day - before.offset >= from) return from;
      continue;
    }
    const earlier = axis.periods[i - 1];
    if (earlier && number * day - earlier.offset < from) continue;
    return at;
  }
  return number * day;
}

/**
 * The end of work on a local date: by the axis where it works that day, and else by the hours of `common`, on the clock of
 * the axis. Null when neither works on it.
 */
function endOf(axis: Axis, common: Calendar, number: number): Instant | null {
  const own = worksOn(axis.calendar, number) ? axis : worksOn(common, number) ? axisOf(common, axis.zone) : null;
  if (!own) return null;
  const next = beginOf(own, number + 1);
  const i = countUpTo(own.begins, next - 1) - 1;
  const end = i < 0 ? null : Math.min(own.ends[i] as number, next);
  // A day whose hours the clock skipped has no end of its own.
  return end !== null && end > beginOf(own, number) ? end : null;
}

/**
 * The end of the n-th working date strictly after the local date of `from`, whenever that day it was asked; a short day is
 * a day. 0 is the end of today while today is still worked, and else of the next working date. Which dates count says
 * `common`, when they end the axis: its own hours, or the common ones on its clock. Null where no such date comes.
 */
export function endOfWorkingDay(axis: Axis, common: Calendar, from: Instant, n: number): Instant | null {
  let left = n;
  const today = localDay(axis, from);
  for (let number = n === 0 ? today : today + 1; number < today + 366 * 20; number += 1) {
    if (!worksOn(common, number)) continue;
    const end = endOf(axis, common, number);
    if (end === null || end <= from) continue;
    left -= 1;
    if (left <= 0) return end;
  }
  return null;
}

/** The same wall clock so many dates later; where the clock skips it, the moment just after. */
export function addDays(zone: string, from: Instant, n: number): Instant {
  return Temporal.Instant.fromEpochMilliseconds(from).toZonedDateTimeISO(zone).add({ days: n }).epochMilliseconds;
}
