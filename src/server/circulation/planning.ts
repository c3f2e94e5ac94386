import { nothingPlanned, type Planning, prepared } from '@/core/circulation/planning';
import type { Circulation } from '@/core/circulation/state';
import { sendWrite, type Tx } from '../db/connect';
import { circulationState } from './load';

// The working copy of what a controller prepares: a plain row, no event. What of it is recorded, act.ts knows.

/** What is prepared for a circulation. */
export async function planningOf(tx: Tx, circulation: string): Promise<Planning> {
  const [row] = await tx.sql<Planning[]>`
    select plan, note, fields from planning where organization = ${tx.organization} and circulation = ${circulation}`;
  return row ?? nothingPlanned;
}

/** Keeps what is prepared, or forgets it (null). */
export function keepPlanning(tx: Tx, circulation: string, planning: Planning | null): void {
  const { sql, organization } = tx;
  if (!planning) {
    sendWrite(sql`delete from planning where organization = ${organization} and circulation = ${circulation}`);
    return;
  }
  const row = {
    plan: planning.plan && sql.json(planning.plan as never),
    note: planning.note,
    fields: sql.json(planning.fields as never),
  };
  sendWrite(sql`
    insert into planning ${sql({ organization, circulation, ...row } as never)}
    on conflict (organization, circulation) do update set ${sql(row as never)}`);
}

/** The state of a circulation as it would be with what is prepared for it, or null when there is none. */
export async function preparedState(tx: Tx, circulation: string): Promise<Circulation | null> {
  const state = await circulationState(tx, circulation);
  return state && prepared(state, await planningOf(tx, circulation));
}
