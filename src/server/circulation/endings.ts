import { afresh } from '@/core/circulation/plan/planning';
import { documentsOf, newest } from '@/core/circulation/run/state';
import type { Tx } from '../db/connect';
import { copyDraft } from '../drafting/draft';
import { payloads, putPayload } from '../events/payloads';
import { newId } from '../random';
import { refuse } from '../refused';
import { actOnRecord } from '../register/act';
import { type PreparedRelease, revisionsOf } from '../signing/evidence';
import { act } from './act';
import { contextOf } from './context';
import { circulationState, readCirculation, recordState } from './load';
import { keepPlanning, planningOf } from './planning';
import { startChange } from './startChange';

// How a circulation ends, and how another begins from one that was withdrawn. Each appends to all its streams in one
// transaction, the circulation's first.

/** Takes a circulation back with a reason; the change of every record in it ends. */
export async function withdraw(tx: Tx, circulation: string, reason: string, person: string): Promise<void> {
  const { state } = await act(tx, circulation, { type: 'withdraw', note: putPayload(tx, reason) }, person);
  for (const record of state.records)
    await actOnRecord(tx, record, { type: 'change.ended', data: { change: state.change } }, person);
}

/**
 * Releases a circulation: every record in it gets its next revision, all of them together. `prepared` is what was made for
 * it before (`prepareRelease`); when something has happened since, its sheet would not tell it, and the release is refused.
 */
export async function release(
  tx: Tx,
  circulation: string,
  person: string,
  prepared: PreparedRelease | null,
): Promise<void> {
  const { state: before, head } = await readCirculation(tx, circulation);
  if (!before) refuse('not-found');
  const revisions = await revisionsOf(tx, before);
  const { evidence, at: effective } = prepared ?? { evidence: '', at: tx.now };
  const command = { type: 'complete', revisions, effective, evidence } as const;
  const { state } = await act(tx, circulation, command, person);
  if (prepared?.head !== head.sequence) refuse('moved-on');
  const version = newest(state);
  if (!state.finals || !version) refuse('not-found');
  for (const { record, revision } of revisions)
    await actOnRecord(
      tx,
      record,
      {
        type: 'revision.released',
        data: {
          change: state.change,
          circulation,
          revision,
          version: version.number,
          title: (await recordState(tx, record))?.title ?? '',
          files: documentsOf(version)
            .filter((file) => file.record === record)
            .map(({ id, name, file: content }) => ({
              id,
              name,
              content,
              file: state.finals?.files.find((final) => final.id === id)?.file ?? content,
            })),
          evidence,
          sight: 'everybody',
          effective,
        },
      },
      person,
    );
}

/** Begins a fresh circulation from a withdrawn one: its records, what was planned with its values and times, and working copy. */
export async function startAfresh(tx: Tx, circulation: string, number: string, person: string): Promise<string> {
  const before = await circulationState(tx, circulation);
  if (before?.phase !== 'withdrawn') refuse('not-withdrawn');
  const record = await recordState(tx, before.records[0] ?? '');
  const change = record?.changes.find((candidate) => candidate.id === before.change);
  if (!change) refuse('not-found');
  const words = before.note ? (await payloads(tx, [before.note])).get(before.note) : undefined;
  const note = words?.state === 'intact' ? words.content : null;
  const planning = afresh(before, note, newId, await contextOf(tx, before, person, { circulation }));
  const fresh = await startChange(tx, {
    number,
    records: before.records,
    reason: change.reason,
    author: before.author,
    controller: person,
    ...(planning.plan ? { plan: planning.plan } : {}),
    note,
    whole: planning.whole,
    facts: planning.facts,
  });
  // Fields are put again where the draft is submitted with the content they were put on.
  keepPlanning(tx, fresh.circulation, { ...(await planningOf(tx, fresh.circulation)), fields: planning.fields });
  await copyDraft(tx, before.change, fresh.change);
  return fresh.circulation;
}
