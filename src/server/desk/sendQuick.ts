import { type Assignee, atInstant, freshSeat, freshStage, usualAllows } from '@/core/route/route';
import type { Verb } from '@/core/route/verbs';
import { act } from '../circulation/act';
import { type Standing, standingOf } from '../circulation/now';
import { startChange } from '../circulation/startChange';
import type { Tx } from '../db/connect';
import { draftFile, draftOf, saveDraft, submitDraft } from '../drafting/draft';
import { putPayload, putPayloadIfAny } from '../events/payloads';
import { rulesOf } from '../organization/rules';
import { newId } from '../random';
import { refuse } from '../refused';
import { createRecord, standardDetails, type TakenNumber } from '../register/createRecord';

/** Sends a file to people in one go: its document is made from defaults and completed later. */
export async function sendQuick(
  tx: Tx,
  input: {
    readonly file: string;
    readonly name: string;
    readonly title: string;
    readonly verb: Verb;
    readonly people: readonly Assignee[];
    readonly due: number | null;
    readonly note: string | null;
  },
  numbers: { readonly record: TakenNumber; readonly circulation: string },
  me: string,
): Promise<{ circulation: string; number: string } & Standing> {
  const file = await draftFile(tx, input, me, null);
  if (file.mediaType !== 'application/pdf') refuse('file-not-pdf');
  const { record, number } = await createRecord(
    tx,
    numbers.record,
    {
      title: input.title,
      owner: me,
      unit: null,
      details: await standardDetails(tx, numbers.record.documentType),
      complete: false,
    },
    me,
  );
  const { change, circulation } = await startChange(tx, {
    number: numbers.circulation,
    records: [record],
    reason: putPayload(tx, 'Sent from the Desk'),
    author: me,
    controller: me,
  });
  const row = (await draftOf(tx, change)) ?? refuse('not-found');
  const documents = row.documents.map((document) => ({ ...document, source: 'file' as const, file }));
  await saveDraft(tx, change, row.edit, { documents });
  await submitDraft(tx, { ...row, documents }, null, me);
  const agreed = (await rulesOf(tx)).includes('delegatingAgreed');
  await act(
    tx,
    circulation,
    {
      type: 'plan',
      whole: { due: null, closes: null },
      note: putPayloadIfAny(tx, input.note),
      plan: {
        kind: 'series',
        id: newId(),
        parts: [
          {
            ...freshStage(
              newId(),
              input.verb,
              input.people.map((assignee) => freshSeat(newId(), assignee)),
            ),
            due: atInstant(input.due),
            allows: { ...usualAllows, ...(agreed ? { delegate: 'agreed' as const } : {}) },
          },
        ],
      },
    },
    me,
  );
  await act(tx, circulation, { type: 'send', releasesItself: false }, me);
  const now = await standingOf(tx, circulation);
  return { circulation, number, phase: now?.phase ?? 'running', waitsFor: now?.waitsFor ?? [] };
}
