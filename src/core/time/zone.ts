import { Temporal } from 'temporal-polyfill';

/** Whether a name is a time zone of the IANA database. */
export function isZone(zone: string): boolean {
  try {
    new Intl.DateTimeFormat('en-GB', { timeZone: zone });
    return true;
  } catch {
    return false;
  }
}

const formats = new Map<string, Intl.DateTimeFormat>();
function format(zone: string, kind: 'day' | 'year' | 'time'): Intl.DateTimeFormat {
  const key = `${zone} ${kind}`;
  let found = formats.get(key);
  if (!found) {
    const shape: Intl.DateTimeFormatOptions =
      kind === 'time'
        ? { hour: '2-digit', minute: '2-digit', hourCycle: 'h23' }
        : { weekday: 'short', day: 'numeric', month: 'short', ...(kind === 'year' ? { year: 'numeric' } : {}) };
    found = new Intl.DateTimeFormat('en-GB', { ...shape, timeZone: zone });
    formats.set(key, found);
  }
  return found;
}

interface Span {
  readonly from: number;
  readonly to: number;
  readonly offset: number;
}
const spans = new Map<string, Span[]>();

/** How far a zone is ahead of UTC at an instant, in milliseconds. What holds between two changes is asked of it once. */
function offsetAt(zone: string, instant: number): number {
  const known = spans.get(zone) ?? [];
  const found = known.find(({ from, to }) => from <= instant && instant < to);
  if (found) return found.offset;
  const at = Temporal.Instant.fromEpochMilliseconds(instant).toZonedDateTimeISO(zone);
  const offset = at.offsetNanoseconds / 1_000_000;
  // An instant of a change belongs to what begins with it.
  const before = at.add({ milliseconds: 1 }).getTimeZoneTransition('previous');
  const after = at.getTimeZoneTransition('next');
  const span = {
    from: before?.epochMilliseconds ?? Number.NEGATIVE_INFINITY,
    to: after?.epochMilliseconds ?? Number.POSITIVE_INFINITY,
    offset,
  };
  spans.set(zone, [...known, span]);
  return offset;
}

const dayMs = 86_400_000;

/** The number of an instant's local date: days since 1 January 1970. */
const dateOf = (zone: string, instant: number) => Math.floor((instant + offsetAt(zone, instant)) / dayMs);

/** "Thu 3 Dec", with the year when it is not that of `now`. */
export function dayIn(zone: string, instant: number, now: number): string {
  const year = (at: number) => new Date(dateOf(zone, at) * dayMs).getUTCFullYear();
  const kind = year(instant) === year(now) ? 'day' : 'year';
  const parts = new Map(
    format(zone, kind)
      .formatToParts(instant)
      .map((part) => [part.type, part.value]),
  );
  const words = [parts.get('weekday'), parts.get('day'), (parts.get('month') ?? '').slice(0, 3)];
  if (kind === 'year') words.push(parts.get('year'));
  return words.join(' ');
}

/** "16:00". */
export function timeIn(zone: string, instant: number): string {
  return format(zone, 'time').format(instant);
}

/** "Thu 3 Dec, 16:00", "today, 16:00", "yesterday, 09:12" or "tomorrow, 10:00". */
export function momentIn(zone: string, instant: number, now: number): string {
  return `${nearDay(zone, instant, now)}, ${timeIn(zone, instant)}`;
}

/** "Thu 3 Dec 2026, 16:00": a moment on paper, which says the same whenever it is read. */
export function datedIn(zone: string, instant: number): string {
  return `${dayIn(zone, instant, 0)}, ${timeIn(zone, instant)}`;
}

/** "today", "yesterday", "tomorrow", or the day. */
export function nearDay(zone: string, instant: number, now: number): string {
  const days = daysBetween(zone, now, instant);
  if (days === 0) return 'today';
  if (days === 1) return 'tomorrow';
  if (days === -1) return 'yesterday';
  return dayIn(zone, instant, now);
}

/** Calendar days in the zone from one instant to the other; negative when it lies before. */
export function daysBetween(zone: string, from: number, to: number): number {
  return dateOf(zone, to) - dateOf(zone, from);
}

/** The first instant of the next local date. */
export function nextDayBegins(zone: string, at: number): number {
  const date = Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(zone).toPlainDate();
  return date.add({ days: 1 }).toZonedDateTime(zone).startOfDay().epochMilliseconds;
}

/**
 * An instant to propose as a due time: 16:00 in the zone on the n-th working day after the day of `from`, Monday to Friday
 * being the working days until an organization has calendars of its own.
 */
export function afterWorkingDays(zone: string, from: number, days: number): number {
  let at = Temporal.Instant.fromEpochMilliseconds(from)
    .toZonedDateTimeISO(zone)
    .with({ hour: 16, minute: 0, second: 0, millisecond: 0 });
  for (let left = days; left > 0; ) {
    at = at.add({ days: 1 });
    if (at.dayOfWeek <= 5) left -= 1;
  }
  return at.epochMilliseconds;
}

/** The wall clock in the zone as "2026-12-03T16:00", for a date and time field. */
export function wallClock(zone: string, instant: number): string {
  return Temporal.Instant.fromEpochMilliseconds(instant)
    .toZonedDateTimeISO(zone)
    .toPlainDateTime()
    .toString({ smallestUnit: 'minute' });
}

/**
 * The instant of a wall clock in a zone, or null when the text is none. A time that a clock change skips gives the
 * instant just after the gap, one that it repeats the earlier of the two.
 */
export function instantAtWall(zone: string, wall: string): number | null {
  try {
    return Temporal.PlainDateTime.from(wall).toZonedDateTime(zone, { disambiguation: 'compatible' }).epochMilliseconds;
  } catch {
    return null;
  }
}
