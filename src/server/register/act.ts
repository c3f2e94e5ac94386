import {
  changeInWork,
  comingRevision,
  currentRevision,
  evolveRecord,
  type RecordCommand,
  type RecordEvent,
  type RecordState,
  recordRefusal,
} from '@/core/record/record';
import { readRecord } from '../circulation/load';
import { notify, sendWrite, type Tx } from '../db/connect';
import { append } from '../events/streams';
import { claimFiles } from '../files/store';
import { refuse } from '../refused';

/** Puts one command to a record: checks it, appends its event and writes the register. */
export async function actOnRecord(tx: Tx, record: string, command: RecordCommand, actor: string): Promise<RecordState> {
  const stream = await readRecord(tx, record);
  const code = recordRefusal(stream.state, command);
  if (code) refuse(code);
  const at = Math.max(tx.now, stream.state?.last ?? 0);
  const event = { ...command, at, actor, onBehalfOf: null } as RecordEvent;
  const state = evolveRecord(stream.state, event);
  append(tx, stream, [event], state);
  projectRecord(tx, record, state);
  notify(tx, 'record', record);
  return state;
}

/** The rows that a record has in the read tables; a pure function of its state. */
function recordRows(record: string, state: RecordState) {
  const current = currentRevision(state);
  const change = changeInWork(state);
  return {
    register: {
      record,
      number: state.number,
      title: state.title,
      documentType: state.documentType,
      owner: state.owner,
      complete: state.complete,
      revision: current?.revision ?? null,
      effective: current?.effective ?? null,
      inProgress: change?.circulation ?? null,
      coming: change ? comingRevision(state) : null,
      changed: state.last,
    },
    revisions: state.revisions.map(({ evidence: _, sight: __, ...revision }) => ({ record, ...revision })),
    files: [
      ...state.revisions.flatMap((revision) => [
        ...revision.files.map((file) => file.file),
        ...(revision.evidence ? [revision.evidence] : []),
      ]),
      ...state.changes.flatMap((one) =>
        one.versions.flatMap((version) => [
          ...version.sources.map(({ source }) => source),
          ...version.files.map((file) => file.file),
        ]),
      ),
    ],
  };
}

export function projectRecord(tx: Tx, record: string, state: RecordState): void {
  const { sql, organization } = tx;
  const rows = recordRows(record, state);
  const row = { organization, ...rows.register };
  sendWrite(sql`
    with written as (
      insert into register ${sql(row as never)}
      on conflict (organization, record) do update set ${sql(row as never, 'number', 'title', 'documentType', 'owner', 'complete', 'revision', 'effective', 'inProgress', 'coming', 'changed')}
      returning organization, record, number, title, document_type, owner)
    insert into register_search (organization, record, number, words)
    select r.organization, r.record, r.number, lower(concat_ws(' ', r.number, r.title, t.name, p.name))
    from written r
    left join document_type t on t.organization = r.organization and t.code = r.document_type
    left join person p on p.organization = r.organization and p.id = r.owner
    on conflict (organization, record) do update set number = excluded.number, words = excluded.words`);
  if (rows.revisions.length > 0)
    sendWrite(
      sql`insert into revision ${sql(rows.revisions.map(({ files, ...revision }) => ({ organization, ...revision, files: sql.json(files as never) })) as never)} on conflict do nothing`,
    );
  claimFiles(tx, `record:${record}`, rows.files);
}
