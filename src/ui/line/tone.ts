import { isLate } from '@/core/time/press';

/** The tone of a tiny line's cabin: stopped, late, or on its way. */
export function toneOf(
  row: { readonly stops: number; readonly nextDue: number | null },
  now: number,
): 'pine' | 'copper' | 'oxblood' {
  if (row.stops > 0) return 'oxblood';
  return isLate(row.nextDue, now) ? 'copper' : 'pine';
}
