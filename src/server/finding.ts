import type { Tx } from './db/connect';
import { mostCounted, patternsOf } from './lists';

/** How many rows of a list are looked through for what a filter asks, before an index is. */
export const nearby = 1000;
/** And how many where they are counted. */
export const nearbyCounted = 2 * mostCounted;

/** The lists whose words are kept: as what their rows are called, by what they are taken, and whose words theirs are. */
const searched = {
  task: { as: 't', key: 'key', of: 'stream', words: 'stream_search', found: 'search_streams' },
  circulation: { as: 'c', key: 'id', of: 'stream', words: 'stream_search', found: 'search_streams' },
  person: { as: 'p', key: 'id', of: 'id', words: 'person_search', found: 'search_people' },
} as const;
/** By what the words of a row are found in their own table. */
const owners = { stream_search: 'stream', person_search: 'person' } as const;

/** A piece of SQL. */
type Piece = ReturnType<typeof pieceOf>;
const pieceOf = ({ sql }: Tx) => sql``;

/**
 * Finds the rows of a list that hold the words of a filter; without words, all. What is common is found by reading the list
 * on from where it begins; only where that gives too little, and is not all there is, the rest is asked of an index, which
 * costs by how many it finds. `listed` is the list from its FROM on, of the rows it is given, without its order.
 */
export function finding(tx: Tx, list: keyof typeof searched, filter: string, listed: (rows: Piece) => Piece) {
  const { sql, organization } = tx;
  const { as, key, of, words, found } = searched[list];
  const patterns = patternsOf(filter);
  const all = sql`${sql(list)}`;
  // Taken by their keys before anything else is asked of them, or they would be looked for among all in their order.
  const near = (order: Piece, most: number) => sql`(
    select * from ${all} where organization = ${organization} and ${sql(key)} = any(array(
      select ahead.key from (
        select ${sql(`${as}.${key}`)} as key, ${sql(`${as}.${of}`)} as of ${listed(all)} ${order} limit ${most}) ahead
      cross join lateral (
        select s.words from ${sql(words)} s
        where s.organization = ${organization} and ${sql(`s.${owners[words]}`)} = ahead.of offset 0) s
      where s.words like all (${patterns}))) offset 0)`;
  const far = sql`(
    select * from ${all} where organization = ${organization}
      and ${sql(of)} in (select ${sql(found)}(${patterns})))`;
  let short: boolean | null = null;
  const isShort = async () => {
    if (short === null) {
      const [there] = await sql<{ all: number }[]>`
        select count(*)::int as all from (select ${listed(all)} limit ${nearby + 1}) there`;
      short = (there?.all ?? 0) <= nearby;
    }
    return short;
  };
  return {
    patterns,
    /** What `read` gives of the rows that fit, in an order of which `most` are looked through first. */
    fitting: async <R>(
      read: (rows: Piece) => Promise<R>,
      { order, most, enough }: { readonly order: Piece; readonly most: number; readonly enough: (got: R) => boolean },
    ): Promise<R> => {
      if (patterns.length === 0) return read(all);
      const got = await read(near(order, most));
      return enough(got) || (await isShort()) ? got : read(far);
    },
  };
}
