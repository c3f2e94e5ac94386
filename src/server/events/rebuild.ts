import type { CirculationEvent } from '@/core/circulation/events';
import { fold } from '@/core/circulation/evolve';
import { foldRecord, type RecordEvent } from '@/core/record/record';
import { project, rowsOf } from '../circulation/project';
import type { Tx } from '../db/connect';
import { projectRecord } from '../register/act';
import { readStream } from './streams';

/**
 * Writes the read tables of one organization anew from its events, in one transaction: they hold nothing that the
 * events do not say. Gives how many streams there were.
 */
export async function rebuild(tx: Tx): Promise<number> {
  const { sql, organization } = tx;
  for (const table of ['task', 'involvement', 'timer', 'circulation', 'revision', 'register'])
    await sql`delete from ${sql(table)} where organization = ${organization}`;
  const streams = await sql<{ stream: string }[]>`
    select distinct stream from event where organization = ${organization} order by stream`;
  for (const { stream } of streams) {
    const id = stream.slice(stream.indexOf(':') + 1);
    if (stream.startsWith('circulation:')) {
      const state = fold((await readStream<CirculationEvent>(tx, stream)).events);
      if (state) await project(tx, null, rowsOf(id, state));
    } else {
      const state = foldRecord((await readStream<RecordEvent>(tx, stream)).events);
      if (state) await projectRecord(tx, id, state);
    }
  }
  return streams.length;
}
