import { Temporal } from 'temporal-polyfill';

/** The local date of an instant, as ISO 8601 writes it. */
export function dayOf(at: number, zone: string): string {
  return Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(zone).toPlainDate().toString();
}

/** The first instant of the local date of an instant. */
export function dayBegan(at: number, zone: string): number {
  return Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(zone).startOfDay().epochMilliseconds;
}

/** When it is done, where not now: the demonstration tells of earlier days. */
export interface Moment {
  readonly at?: number | undefined;
}
