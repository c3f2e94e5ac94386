import type { Tx } from '../db/connect';
import { settings } from '../settings';

/** How much of the demonstration's past has been told, in per cent; null when it is whole, and in a real installation. */
export async function layingOut({ sql, organization }: Tx): Promise<number | null> {
  if (settings().mode !== 'demo') return null;
  const [row] = await sql<{ percent: number }[]>`
    select told.value * 100 / whole.value as percent from counter told
    join counter whole on whole.organization = told.organization and whole.name = 'history to tell'
    where told.organization = ${organization} and told.name = 'history told' and told.value < whole.value`;
  return row?.percent ?? null;
}
