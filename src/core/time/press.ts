import { Temporal } from 'temporal-polyfill';
import type { Instant } from './instant';

/** How a due time presses on whoever reads it, by their own day and week. */
type Press = 'late' | 'today' | 'week' | 'later' | 'none';

/** Where one press ends and the next begins, for a reader: the same for heads, groups, counts and questions to a database. */
interface PressBounds {
  readonly now: Instant;
  /** The first instant of their tomorrow, and of their next week (Monday, ISO 8601). */
  readonly day: Instant;
  readonly week: Instant;
}

/** The bounds for a reader in a zone at an instant. */
export function pressBounds(zone: string, now: Instant): PressBounds {
  const today = Temporal.Instant.fromEpochMilliseconds(now).toZonedDateTimeISO(zone).toPlainDate();
  const begins = (date: Temporal.PlainDate) => date.toZonedDateTime(zone).epochMilliseconds;
  return { now, day: begins(today.add({ days: 1 })), week: begins(today.add({ days: 8 - today.dayOfWeek })) };
}

/** Whether a due time has passed. */
export function isLate(due: Instant | null, now: Instant): due is Instant {
  return due !== null && due < now;
}

/** How a due time presses. */
export function pressOf(due: Instant | null, { now, day, week }: PressBounds): Press {
  if (due === null) return 'none';
  if (isLate(due, now)) return 'late';
  return due < day ? 'today' : due < week ? 'week' : 'later';
}
