import type { Whole } from '@/core/circulation/run/shapes';
import { comingRevision, type RecordState } from '@/core/record/record';
import type { FactValue } from '@/core/route/facts';
import { emptyRoute, type Series } from '@/core/route/route';
import { type Tx, takeNumber } from '../db/connect';
import { newDraft } from '../drafting/draft';
import { newId } from '../random';
import { refuse } from '../refused';
import { actOnRecord } from '../register/act';
import { act } from './act';
import { recordState } from './load';
import { prepareRoute } from './prepare';

/** Takes the next number for a circulation: C-1, C-2, ... */
export async function takeCirculationNumber(organization: string): Promise<string> {
  return `C-${await takeNumber(organization, 'circulation')}`;
}

interface NewChange {
  /** The number taken for its circulation. */
  readonly number: string;
  /** The records it covers, the leading one first. */
  readonly records: readonly string[];
  readonly reason: string;
  readonly author: string;
  readonly controller: string;
  readonly plan?: Series;
  /** The words that stood with that plan. */
  readonly note?: string | null;
  readonly whole?: Whole;
  readonly facts?: Readonly<Record<string, FactValue | null>>;
}

/** Starts a change of one or several records with its circulation and its working copy; all of them or none. */
export async function startChange(tx: Tx, input: NewChange): Promise<{ change: string; circulation: string }> {
  const change = newId();
  const circulation = newId();
  const { number, records, reason, author, controller } = input;
  const states: RecordState[] = [];
  for (const record of records) states.push((await recordState(tx, record)) ?? refuse('not-found'));
  await act(
    tx,
    circulation,
    {
      type: 'create',
      number,
      records,
      change,
      controller,
      author,
      plan: emptyRoute(newId()),
      batch: null,
      begunBy: null,
    },
    controller,
  );
  if (input.plan)
    await prepareRoute(
      tx,
      circulation,
      {
        route: input.plan,
        note: input.note ?? null,
        ...(input.whole ? { whole: input.whole } : {}),
        ...(input.facts ? { facts: input.facts } : {}),
      },
      controller,
    );
  for (const [i, record] of records.entries())
    await actOnRecord(
      tx,
      record,
      {
        type: 'change.started',
        data: {
          change,
          circulation,
          records,
          revision: comingRevision(states[i] as RecordState),
          reason,
          author,
          controller,
        },
      },
      controller,
    );
  newDraft(tx, {
    change,
    circulation,
    author,
    controller,
    documents: records.map((record, i) => ({
      record,
      name: `${states[i]?.number} ${states[i]?.title}.pdf`,
    })),
  });
  return { change, circulation };
}
