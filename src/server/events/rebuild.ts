import { readRecord } from '../circulation/load';
import { preparedState } from '../circulation/planning';
import { project, rowsOf } from '../circulation/project';
import type { Tx } from '../db/connect';
import { projectRecord } from '../register/act';

/** The tables that hold nothing but what the events say. */
export const readTables = [
  'task',
  'involvement',
  'timer',
  'circulation',
  'revision',
  'register',
  'register_search',
] as const;

/**
 * Writes the read tables of one organization anew from its events, in one transaction: they hold nothing that the
 * events do not say. Gives how many streams there were.
 */
export async function rebuild(tx: Tx): Promise<number> {
  const { sql, organization } = tx;
  for (const table of readTables) await sql`delete from ${sql(table)} where organization = ${organization}`;
  await sql`delete from file_use where organization = ${organization} and owner not like 'draft:%'`;
  const streams = await sql<{ stream: string }[]>`
    select distinct stream from event where organization = ${organization} order by stream`;
  for (const { stream } of streams) {
    const id = stream.slice(stream.indexOf(':') + 1);
    if (stream.startsWith('circulation:')) {
      const state = await preparedState(tx, id);
      if (state) project(tx, null, rowsOf(id, state));
    } else if (stream.startsWith('record:')) {
      const { state } = await readRecord(tx, id);
      if (state) projectRecord(tx, id, state);
    }
  }
  return streams.length;
}
