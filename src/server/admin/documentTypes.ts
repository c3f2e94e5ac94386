import { schemeFits } from '@/core/record/numbering';
import { type FactType, factFault } from '@/core/route/facts';
import { isReminderPlan, type ReminderPlan } from '@/core/time/reminders';
import { notify, sendWrite, type Tx } from '../db/connect';
import { table } from '../db/table';
import { recordChange } from '../organization/changes';
import { needMembers } from '../organization/groups';
import { refuse } from '../refused';
import { recordAdministration } from './administration';

/** Refuses facts that could not be told apart or used: two of one name, a standard that does not fit, a choice of nothing. */
function needFactTypes(facts: readonly FactType[]): void {
  const names = new Set(facts.map((type) => type.name.toLowerCase()));
  const ids = new Set(facts.map((type) => type.id));
  if (names.size < facts.length || ids.size < facts.length) refuse('facts-alike');
  for (const type of facts) {
    if (type.kind === 'choice' && type.choices.length === 0) refuse('choices-missing', { fact: type.name });
    if (type.standard && factFault(type, type.standard)) refuse('fact-unfit', { fact: type.name });
  }
}

export interface DocumentType {
  readonly code: string;
  readonly name: string;
  /** How its documents are numbered: one run of zeros stands for the counter. */
  readonly scheme: string;
  /** What a file that is sent quickly becomes. */
  readonly usual: boolean;
  /** One that is off stays with the documents that have it; new ones cannot be given it. */
  readonly active: boolean;
  /** Whether submitted PDFs get a line with number, revision and page in their margin. */
  readonly marginLine: boolean;
  /** The facts that its documents declare, and who looks after the type. */
  readonly facts: readonly FactType[];
  /** The details that its documents have themselves. */
  readonly details: readonly FactType[];
  readonly custodian: string | null;
  /** How people are reminded who are asked about its documents; null as usual. */
  readonly reminders: ReminderPlan | null;
}

export const documentTypeRows = table<DocumentType & { readonly position: number }>('document_type', {
  code: 'value',
  name: 'value',
  scheme: 'value',
  position: 'value',
  usual: 'value',
  active: 'value',
  marginLine: 'value',
  facts: 'json',
  details: 'json',
  custodian: 'value',
  reminders: 'json',
});

/** The document types of an organization in their order, those that are off too. */
export async function documentTypes(tx: Tx): Promise<DocumentType[]> {
  const rows = await tx.sql<(DocumentType & { readonly position: number })[]>`
    select ${documentTypeRows.list(tx, 't')} from document_type t where t.organization = ${tx.organization}
    order by t.position, t.code`;
  return rows.map(({ position: _, ...type }) => type);
}

/** Adds a document type, or changes its name, its numbering from now on, and whether it is offered. */
export async function describeDocumentType(
  tx: Tx,
  input: Omit<DocumentType, 'usual'> & { readonly added: boolean },
  actor: string,
): Promise<void> {
  const { sql, organization } = tx;
  const { code, name, scheme, active, marginLine, added, facts, details, custodian, reminders } = input;
  const types = await documentTypes(tx);
  const before = types.find((type) => type.code === code);
  if (added === (before !== undefined)) refuse(added ? 'type-taken' : 'unknown-type');
  const others = types.filter((type) => type.code !== code);
  if (!schemeFits(scheme)) refuse('scheme-unfit');
  if (others.some((type) => type.scheme.toLowerCase() === scheme.toLowerCase())) refuse('scheme-taken');
  if (others.some((type) => type.name.toLowerCase() === name.toLowerCase())) refuse('type-name-taken');
  if (before?.usual && !active) refuse('type-usual');
  if (before?.usual && marginLine) refuse('type-usual-line');
  needFactTypes(facts);
  needFactTypes(details);
  if (reminders && !isReminderPlan(reminders)) refuse('reminders-unfit');
  await needMembers(tx, [custodian, reminders?.third?.person ?? null]);
  const row = { name, scheme, active, marginLine, facts, details, custodian, reminders };
  sendWrite(sql`
    ${documentTypeRows.insert(tx, [{ code, position: types.length, usual: false, ...row }])}
    on conflict (organization, code) do update set ${documentTypeRows.set(tx, row)}`);
  await recordChange(tx, 'facts', code, before?.facts ?? [], facts, actor);
  await recordChange(tx, 'details', code, before?.details ?? [], details, actor);
  await recordChange(tx, 'reminders', code, before?.reminders ?? null, reminders, actor);
  sendWrite(sql`update profile set types_confirmed = true where organization = ${organization}`);
  await recordAdministration(
    tx,
    { type: 'documentType.described', data: { code, name, scheme, active, marginLine } },
    actor,
  );
  if (before && before.name !== name)
    sendWrite(sql`
      update register_search s set words = lower(concat_ws(' ', r.number, r.title, ${name}::text, p.name))
      from register r left join person p on p.organization = r.organization and p.id = r.owner
      where r.organization = ${organization} and r.document_type = ${code} and s.organization = r.organization and s.record = r.record`);
  notify(tx, 'settings');
}
