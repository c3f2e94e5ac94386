import { nothingPlanned, type Planning, prepared } from '@/core/circulation/plan/planning';
import type { Circulation } from '@/core/circulation/run/state';
import { LostRace, sendWrite, type Tx } from '../db/connect';
import { table } from '../db/table';
import { factTypesOf } from './context';
import { circulationState, readCirculation } from './load';

// The working copy of what a controller prepares: a plain row, no event. What of it is recorded, act.ts knows.

const plannings = table<Planning & { readonly circulation: string }>('planning', {
  circulation: 'value',
  plan: 'json',
  note: 'value',
  fields: 'json',
  whole: 'json',
  facts: 'json',
});

/**
 * What is prepared for a circulation, held until the transaction ends: whoever changes it, or records it, waits for who came
 * first. What others recorded meanwhile loses the race, so that nothing is prepared for what has been sent.
 */
export async function holdPlanning(tx: Tx, circulation: string): Promise<Planning> {
  const { sql, organization } = tx;
  await sql`select pg_advisory_xact_lock(hashtextextended(${`${organization} planning ${circulation}`}, 0))`;
  const { id, head } = await readCirculation(tx, circulation);
  const [row] = await sql<{ last: number | null }[]>`
    select max(sequence) as last from event where organization = ${organization} and stream = ${id}`;
  if ((row?.last ?? 0) !== head.sequence) throw new LostRace();
  return planningOf(tx, circulation);
}

/** What is prepared for a circulation, for whoever only looks. */
export async function planningOf(tx: Tx, circulation: string): Promise<Planning> {
  const [row] = await tx.sql<(Planning & { readonly circulation: string })[]>`
    select ${plannings.list(tx, 'p')} from planning p
    where p.organization = ${tx.organization} and p.circulation = ${circulation}`;
  if (!row) return nothingPlanned;
  const { circulation: _, ...planning } = row;
  return planning;
}

/** Keeps what is prepared, or forgets it (null). */
export function keepPlanning(tx: Tx, circulation: string, planning: Planning | null): void {
  const { sql, organization } = tx;
  if (!planning) {
    sendWrite(sql`delete from planning where organization = ${organization} and circulation = ${circulation}`);
    return;
  }
  sendWrite(sql`
    ${plannings.insert(tx, [{ circulation, ...planning }])}
    on conflict (organization, circulation) do update set ${plannings.set(tx, planning)}`);
}

/** The state of a circulation as it would be with what is prepared for it, or null when there is none. */
export async function preparedState(tx: Tx, circulation: string): Promise<Circulation | null> {
  const state = await circulationState(tx, circulation);
  if (!state) return null;
  return prepared(state, await planningOf(tx, circulation), state.phase === 'new' ? await factTypesOf(tx, state) : []);
}
