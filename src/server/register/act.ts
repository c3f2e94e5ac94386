import {
  changeInWork,
  comingRevision,
  currentRevision,
  foldRecord,
  type RecordCommand,
  type RecordEvent,
  type RecordState,
  recordRefusal,
  recordRefusals,
} from '@/core/record/record';
import { recordStream } from '../circulation/load';
import { sendWrite, type Tx } from '../db/connect';
import { append, hint, readStream } from '../events/streams';
import { Refused } from '../refused';

/** Puts one command to a record: checks it, appends its event and writes the register. */
export async function actOnRecord(tx: Tx, record: string, command: RecordCommand, actor: string): Promise<RecordState> {
  const stream = await readStream<RecordEvent>(tx, recordStream(record));
  const before = foldRecord(stream.events);
  const code = recordRefusal(before, command);
  if (code) throw new Refused(code, recordRefusals[code]);
  const at = Math.max(tx.now, before?.last ?? 0);
  const event = { ...command, at, actor, onBehalfOf: null } as RecordEvent;
  await append(tx, stream, [event]);
  const state = foldRecord([...stream.events, event]) as RecordState;
  await projectRecord(tx, record, state);
  hint(tx, `record ${record}`);
  return state;
}

/** The rows that a record has in the read tables; a pure function of its state. */
export function recordRows(record: string, state: RecordState) {
  const current = currentRevision(state);
  const change = changeInWork(state);
  return {
    register: {
      record,
      number: state.number,
      title: state.title,
      kind: state.kind,
      owner: state.owner,
      complete: state.complete,
      revision: current?.revision ?? null,
      file: current?.file ?? null,
      effective: current?.effective ?? null,
      inWork: change?.circulation ?? null,
      coming: change ? comingRevision(state) : null,
      changed: state.last,
    },
    revisions: state.revisions.map((revision) => ({ record, ...revision })),
  };
}

export async function projectRecord(tx: Tx, record: string, state: RecordState): Promise<void> {
  const { sql, organization } = tx;
  const rows = recordRows(record, state);
  const row = { organization, ...rows.register };
  sendWrite(
    tx,
    sql`
    insert into register ${sql(row as never)}
    on conflict (organization, record) do update set ${sql(row as never, 'number', 'title', 'kind', 'owner', 'complete', 'revision', 'file', 'effective', 'inWork', 'coming', 'changed')}`,
  );
  if (rows.revisions.length > 0)
    sendWrite(
      tx,
      sql`insert into revision ${sql(rows.revisions.map((revision) => ({ organization, ...revision })) as never)} on conflict do nothing`,
    );
}
