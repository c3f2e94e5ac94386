import type { CirculationEvent } from '@/core/circulation/events';
import { fold } from '@/core/circulation/evolve';
import type { Circulation } from '@/core/circulation/state';
import { foldRecord, type RecordEvent, type RecordState } from '@/core/record/record';
import type { Tx } from '../db/connect';
import { readStream } from '../events/streams';

export const circulationStream = (id: string) => `circulation:${id}`;
export const recordStream = (id: string) => `record:${id}`;

/** The state of a circulation now, or null when there is none. */
export async function circulationState(tx: Tx, id: string): Promise<Circulation | null> {
  return fold((await readStream<CirculationEvent>(tx, circulationStream(id))).events);
}

export async function recordState(tx: Tx, id: string): Promise<RecordState | null> {
  return foldRecord((await readStream<RecordEvent>(tx, recordStream(id))).events);
}
