import type { CirculationEvent } from '@/core/circulation/run/events';
import { fold } from '@/core/circulation/run/evolve';
import type { Circulation } from '@/core/circulation/run/state';
import { foldRecord, type RecordEvent, type RecordState } from '@/core/record/record';
import type { Tx } from '../db/connect';
import { circulationStream, readStream, readStreams, recordStream, type Stream } from '../events/streams';

export function readCirculation(tx: Tx, id: string): Promise<Stream<Circulation>> {
  return readStream<Circulation, CirculationEvent>(tx, circulationStream(id), fold);
}

/** Reads several circulations that are needed together in one query; each is known in this transaction from then on. */
export function readCirculations(tx: Tx, ids: readonly string[]): Promise<void> {
  return readStreams<Circulation, CirculationEvent>(tx, ids.map(circulationStream), fold);
}

export function readRecord(tx: Tx, id: string): Promise<Stream<RecordState>> {
  return readStream<RecordState, RecordEvent>(tx, recordStream(id), foldRecord);
}

/** The state of a circulation now, or null when there is none. */
export async function circulationState(tx: Tx, id: string): Promise<Circulation | null> {
  return (await readCirculation(tx, id)).state;
}

export async function recordState(tx: Tx, id: string): Promise<RecordState | null> {
  return (await readRecord(tx, id)).state;
}
