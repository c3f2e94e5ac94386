import type { Circulation } from '@/core/circulation/run/state';
import { inHalfDays } from '@/core/forecast/causes';
import type { Forecast } from '@/core/forecast/forecast';
import { tick, workday } from '@/core/forecast/ticks';
import type { Tx } from '../db/connect';
import type { KeptShift } from './make';

/** Why there is no forecast of a circulation under way; null where there is one, or none is to be expected. */
type Missing = 'paused' | 'closed' | 'history';

/**
 * The forecast of a circulation under way, with why its date is another than on the day before. Who decides it, and what
 * moved it, is for whoever steers it: it says how long people take.
 */
export async function forecastView(tx: Tx, id: string, state: Circulation, steers: boolean) {
  if (state.sent === null || state.ended !== null) return null;
  const missing: Missing | null = state.paused !== null ? 'paused' : state.closed !== null ? 'closed' : null;
  const [row] = missing
    ? []
    : await tx.sql<{ forecast: Forecast; shift: KeptShift | null; current: boolean }[]>`
    select f.forecast, f.shift, c.forecast_at is not null as current from forecast f
    join circulation c on c.organization = f.organization and c.id = f.circulation
    where f.organization = ${tx.organization} and f.circulation = ${id} order by f.day desc limit 1`;
  if (!row) return { missing: missing ?? 'history', forecast: null, shift: null, current: true } as const;
  const { forecast, shift, current } = row;
  return {
    missing: null,
    forecast: steers ? forecast : { ...forecast, decides: [] },
    /** Whether nothing has happened since. */
    current,
    shift:
      steers && shift
        ? { since: shift.since, from: shift.from, to: shift.to, causes: inHalfDays(shift.shifts, workday * tick) }
        : null,
  };
}
