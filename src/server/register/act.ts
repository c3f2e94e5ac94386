import {
  changeInWork,
  comingRevision,
  currentRevision,
  evolveRecord,
  type RecordCommand,
  type RecordEvent,
  type RecordState,
  type Revision,
  recordRefusal,
} from '@/core/record/record';
import type { Facts } from '@/core/route/facts';
import { readRecord } from '../circulation/load';
import { notify, sendWrite, type Tx } from '../db/connect';
import { table } from '../db/table';
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

export interface RegisterRow {
  readonly record: string;
  readonly number: string;
  readonly title: string;
  readonly documentType: string;
  readonly owner: string;
  readonly unit: string | null;
  readonly details: Facts;
  readonly complete: boolean;
  readonly revision: string | null;
  readonly effective: number | null;
  readonly inProgress: string | null;
  readonly coming: string | null;
  readonly changed: number;
}

/** The rows that a record has in the read tables; a pure function of its state. */
function recordRows(
  record: string,
  state: RecordState,
): {
  readonly register: RegisterRow;
  readonly revisions: readonly (Revision & { readonly record: string })[];
  readonly files: readonly string[];
} {
  const current = currentRevision(state);
  const change = changeInWork(state);
  return {
    register: {
      record,
      number: state.number,
      title: state.title,
      documentType: state.documentType,
      owner: state.owner,
      unit: state.unit,
      details: state.details,
      complete: state.complete,
      revision: current?.revision ?? null,
      effective: current?.effective ?? null,
      inProgress: change?.circulation ?? null,
      coming: change ? comingRevision(state) : null,
      changed: state.last,
    },
    revisions: state.revisions.map((revision) => ({ record, ...revision })),
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

/** The rows of the register as lists read them. */
export const registered = table<RegisterRow>('register', {
  record: 'value',
  number: 'value',
  title: 'value',
  documentType: 'value',
  owner: 'value',
  unit: 'value',
  details: 'json',
  complete: 'value',
  revision: 'value',
  effective: 'value',
  inProgress: 'value',
  coming: 'value',
  changed: 'value',
});
const revised = table<Omit<Revision, 'evidence' | 'sight'> & { readonly record: string }>('revision', {
  record: 'value',
  revision: 'value',
  title: 'value',
  files: 'json',
  effective: 'value',
  released: 'value',
  by: 'value',
  circulation: 'value',
});

export function projectRecord(tx: Tx, record: string, state: RecordState): void {
  const { sql } = tx;
  const rows = recordRows(record, state);
  const { record: _, ...described } = rows.register;
  sendWrite(sql`
    with written as (
      ${registered.insert(tx, [rows.register])}
      on conflict (organization, record) do update set ${registered.set(tx, described)}
      returning organization, record, number, title, document_type, owner)
    insert into register_search (organization, record, number, words)
    select r.organization, r.record, r.number, lower(concat_ws(' ', r.number, r.title, t.name, p.name))
    from written r
    left join document_type t on t.organization = r.organization and t.code = r.document_type
    left join person p on p.organization = r.organization and p.id = r.owner
    on conflict (organization, record) do update set number = excluded.number, words = excluded.words`);
  if (rows.revisions.length > 0) sendWrite(sql`${revised.insert(tx, rows.revisions)} on conflict do nothing`);
  claimFiles(tx, `record:${record}`, rows.files);
}
