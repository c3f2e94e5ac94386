import type { Tx } from '../db/connect';
import { mostCounted, patternsOf } from '../lists';
import { type RegisterRow, registered } from './act';

const pageSize = 60;

/** A page of the register in the order of numbers, with how many there are in all (up to a thousand). */
export async function registerPage(tx: Tx, input: { readonly filter: string; readonly after: string | null }) {
  const { sql, organization } = tx;
  const after = input.after ?? '';
  const patterns = patternsOf(input.filter);
  const rows =
    patterns.length === 0
      ? await sql<RegisterRow[]>`
          select ${registered.list(tx, 'r')} from register r where organization = ${organization} and number collate "C" > ${after}
          order by number collate "C" limit ${pageSize + 1}`
      : await sql<RegisterRow[]>`
          select ${registered.list(tx, 'r')} from register r where organization = ${organization}
            and record = any(array(select search_register(${patterns}, ${after}, ${pageSize + 1})))
          order by number collate "C"`;
  // Only the first page says how many there are.
  const [counted] =
    input.after !== null || rows.length <= pageSize
      ? []
      : patterns.length === 0
        ? await sql<{ count: number }[]>`
            select count(*)::int as count from (
              select from register where organization = ${organization} limit ${mostCounted}) found`
        : await sql<{ count: number }[]>`select count_register(${patterns}, ${mostCounted}) as count`;
  const page = rows.slice(0, pageSize);
  return {
    rows: page,
    next: rows.length > pageSize ? (page[page.length - 1]?.number ?? null) : null,
    count: input.after === null ? (counted?.count ?? rows.length) : null,
  };
}
