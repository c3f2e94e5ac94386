import { numberIn, numberOf, numberPrefix } from '@/core/record/numbering';
import { inOrganization, type Tx, takeNumber } from '../db/connect';
import { newId } from '../random';
import { refuse } from '../refused';
import { actOnRecord } from './act';

/** A number that was taken for a record that is about to be made, with the document type it belongs to. */
export interface TakenNumber {
  readonly number: string;
  readonly documentType: string;
}

/** Refuses a document type that does not exist or is no longer offered. */
export async function needDocumentType(tx: Tx, code: string): Promise<void> {
  const [type] = await tx.sql<{ active: boolean }[]>`
    select active from document_type where organization = ${tx.organization} and code = ${code}`;
  if (!type) refuse('unknown-type');
  if (!type.active) refuse('type-off');
}

/**
 * Takes the next number of a document type's scheme (the usual type's when none is named), durably and by itself: nobody
 * waits for what the number is for. The first one counted goes on from the highest that is there.
 */
export async function takeRecordNumber(organization: string, documentType: string | null): Promise<TakenNumber> {
  const { code, scheme, above } = await inOrganization(organization, async (tx) => {
    const [type] = await tx.sql<{ code: string; scheme: string; active: boolean; counted: boolean }[]>`
      select code, scheme, active, exists (
        select 1 from counter c where c.organization = t.organization and c.name = 'scheme ' || t.scheme) as counted
      from document_type t
      where organization = ${organization} and ${documentType === null ? tx.sql`usual` : tx.sql`code = ${documentType}`}`;
    if (!type) refuse('unknown-type');
    if (!type.active) refuse('type-off');
    if (type.counted) return { ...type, above: 0 };
    // By the number itself: a record keeps its number when it is given another type.
    const taken = await tx.sql<{ number: string }[]>`
      select number from register where organization = ${organization} and starts_with(number, ${numberPrefix(type.scheme)})`;
    return { ...type, above: Math.max(0, ...taken.map((row) => numberIn(type.scheme, row.number) ?? 0)) };
  });
  return { documentType: code, number: numberOf(scheme, await takeNumber(organization, `scheme ${scheme}`, above)) };
}

/** Makes a record under a number that was taken for it. */
export async function createRecord(
  tx: Tx,
  taken: TakenNumber,
  input: { title: string; owner: string; complete: boolean },
  actor: string,
): Promise<{ record: string; number: string }> {
  const record = newId();
  await actOnRecord(tx, record, { type: 'record.created', data: { ...taken, ...input } }, actor);
  return { record, number: taken.number };
}
