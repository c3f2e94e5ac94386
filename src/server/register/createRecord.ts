import { numberIn, numberOf, numberPrefix } from '@/core/record/numbering';
import { type Facts, type FactType, type FactValue, factFault, standardFacts } from '@/core/route/facts';
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

/** What the documents of a type have by themselves. */
export async function standardDetails(tx: Tx, documentType: string): Promise<Facts> {
  return standardFacts(await detailsOf(tx, documentType));
}

/** The details that a document type declares. */
async function detailsOf({ sql, organization }: Tx, documentType: string): Promise<readonly FactType[]> {
  const [type] = await sql<{ details: FactType[] }[]>`
    select details from document_type where organization = ${organization} and code = ${documentType}`;
  return type?.details ?? [];
}

/** Values as the details of a type: those it does not declare are left out, one that does not fit or is missing is refused. */
export async function fitDetails(
  tx: Tx,
  documentType: string,
  given: Readonly<Record<string, FactValue | null>>,
): Promise<Facts> {
  const details: Record<string, FactValue> = {};
  for (const type of await detailsOf(tx, documentType)) {
    const value = given[type.id] ?? null;
    if (value === null && type.needed) refuse('detail-missing', { fact: type.name });
    if (value === null) continue;
    if (factFault(type, value)) refuse('fact-unfit', { fact: type.name });
    details[type.id] = value;
  }
  return details;
}

/** Makes a record under a number that was taken for it. */
export async function createRecord(
  tx: Tx,
  taken: TakenNumber,
  input: { title: string; owner: string; unit: string | null; details: Facts; complete: boolean },
  actor: string,
): Promise<{ record: string; number: string }> {
  const record = newId();
  await actOnRecord(tx, record, { type: 'record.created', data: { ...taken, ...input } }, actor);
  return { record, number: taken.number };
}
