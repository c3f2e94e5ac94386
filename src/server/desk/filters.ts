import { sendWrite, type Tx } from '../db/connect';

/** A filter of the list of circulations that somebody keeps under a name. */
export interface KeptFilter {
  readonly name: string;
  readonly state: 'live' | 'ended' | 'all';
  readonly filter: string;
  readonly holder: string | null;
  readonly documentType: string | null;
  readonly late: boolean;
}

/** The filters that somebody has kept, in the order they gave them. */
export async function filtersOf({ sql, organization }: Tx, person: string): Promise<readonly KeptFilter[]> {
  const [row] = await sql<{ filters: KeptFilter[] }[]>`
    select filters from person where organization = ${organization} and id = ${person}`;
  return row?.filters ?? [];
}

/** Keeps somebody's filters in place of those they had. */
export function keepFilters({ sql, organization }: Tx, person: string, filters: readonly KeptFilter[]): void {
  sendWrite(sql`
    update person set filters = ${sql.json(filters as never)} where organization = ${organization} and id = ${person}`);
}
