import { schemeFits } from '@/core/record/numbering';
import { notify, sendWrite, type Tx } from '../db/connect';
import { refuse } from '../refused';
import { recordAdministration } from './administration';

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
}

/** The document types of an organization in their order, those that are off too. */
export async function documentTypes(tx: Tx): Promise<DocumentType[]> {
  return tx.sql<DocumentType[]>`
    select code, name, scheme, usual, active, margin_line from document_type where organization = ${tx.organization} order by position, code`;
}

/** Adds a document type, or changes its name, its numbering from now on, and whether it is offered. */
export async function describeDocumentType(
  tx: Tx,
  input: Omit<DocumentType, 'usual'> & { readonly added: boolean },
  actor: string,
): Promise<void> {
  const { sql, organization } = tx;
  const { code, name, scheme, active, marginLine, added } = input;
  const types = await documentTypes(tx);
  const before = types.find((type) => type.code === code);
  if (added === (before !== undefined)) refuse(added ? 'type-taken' : 'unknown-type');
  const others = types.filter((type) => type.code !== code);
  if (!schemeFits(scheme)) refuse('scheme-unfit');
  if (others.some((type) => type.scheme.toLowerCase() === scheme.toLowerCase())) refuse('scheme-taken');
  if (others.some((type) => type.name.toLowerCase() === name.toLowerCase())) refuse('type-name-taken');
  if (before?.usual && !active) refuse('type-usual');
  if (before?.usual && marginLine) refuse('type-usual-line');
  sendWrite(sql`
    insert into document_type (organization, code, name, scheme, position, active, margin_line)
    values (${organization}, ${code}, ${name}, ${scheme}, ${types.length}, ${active}, ${marginLine})
    on conflict (organization, code) do update
    set name = ${name}, scheme = ${scheme}, active = ${active}, margin_line = ${marginLine}`);
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
