import type { Tx } from '../db/connect';
import { finding, nearby } from '../finding';
import { cursorOf, keysIn, mostCounted, patternsOf } from '../lists';
import { type Person, peopleRows } from './people';

const pageSize = 60;
const mostFound = 50;

/**
 * A page of the people of an organization: members before outside people, each by name. The first page counts both. With
 * `delivery` it says whose invitation could not be delivered so far.
 */
export async function peoplePage(
  tx: Tx,
  input: { readonly filter: string; readonly after: string | null },
  delivery: boolean,
) {
  const { sql, organization } = tx;
  const after = keysIn(input.after, ['string', 'string', 'string']);
  const behind = after ? sql`and (p.kind, lower(p.name), p.id) > (${after[0]}, ${after[1]}, ${after[2]})` : sql``;
  const order = sql`order by p.kind, lower(p.name), p.id`;
  const listed = (people: typeof order) => sql`from ${people} p where p.organization = ${organization} ${behind}`;
  const { fitting, patterns } = finding(tx, 'person', input.filter, listed);
  const failed = delivery
    ? sql`exists (
        select from job j
        where j.organization = p.organization and j.kind = 'mail' and j.state <> 'done' and j.error is not null
          and j.data ->> 'template' = 'invitation' and j.data ->> 'person' = p.id)`
    : sql`false`;
  const rows = await fitting(
    (people) => sql<(Person & { sort: string; failed: boolean })[]>`
      select ${peopleRows.list(tx, 'p')}, lower(p.name) as sort, ${failed} as failed
      ${listed(people)} ${order} limit ${pageSize + 1}`,
    { order, most: nearby, enough: (got) => got.length > pageSize },
  );
  const last = rows[Math.min(rows.length, pageSize) - 1];
  const countOf = async (kind: 'member' | 'outside') => {
    if (rows.length <= pageSize) return rows.filter((row) => row.kind === kind).length;
    const [found] =
      patterns.length === 0
        ? await sql<{ count: number }[]>`
            select count(*)::int as count from (
              select from person p where p.organization = ${organization} and p.kind = ${kind} limit ${mostCounted}) found`
        : await sql<{ count: number }[]>`select count_people(${patterns}, ${kind}, ${mostCounted}) as count`;
    return found?.count ?? 0;
  };
  return {
    rows: rows
      .slice(0, pageSize)
      .map(({ sort: _sort, failed, ...person }): Person => (failed ? { ...person, unreached: true } : person)),
    next: rows.length > pageSize && last ? cursorOf(last.kind, last.sort, last.id) : null,
    counts: after ? null : { members: await countOf('member'), outside: await countOf('outside') },
  };
}

/** Of how many circulations that moved last it is looked up whom somebody works with. */
const lately = 30;

/**
 * Whom a person might ask before they have typed anything: whoever takes part in most of the circulations that they were in
 * lately, then everybody by name.
 */
export async function peopleToAsk(tx: Tx, who: 'members' | 'anybody', asker: string): Promise<Person[]> {
  const { sql, organization } = tx;
  const known = await sql<Person[]>`
    select ${peopleRows.list(tx, 'p')}
    from (
      select i.person, count(*) as often from involvement i
      where i.organization = ${organization} and i.person <> ${asker} and i.stream in (
        select c.stream from involvement own join circulation c on c.organization = own.organization and c.stream = own.stream
        where own.organization = ${organization} and own.person = ${asker} order by c.last desc limit ${lately})
      group by i.person) often
    join person p on p.organization = ${organization} and p.id = often.person and p.state <> 'left'
    ${who === 'members' ? sql`and p.kind = 'member'` : sql``}
    order by often.often desc, lower(p.name), p.id limit ${mostFound}`;
  const others = known.length < mostFound ? await findPeople(tx, { text: '', who }) : [];
  return [...known, ...others.filter((other) => known.every(({ id }) => id !== other.id))].slice(0, mostFound);
}

/** The first people, by name, whom every word of a text fits: those who can be asked, or everybody. */
export async function findPeople(
  tx: Tx,
  input: { readonly text: string; readonly who: 'members' | 'anybody' | 'everybody'; readonly most?: number },
): Promise<Person[]> {
  const { sql, organization } = tx;
  const patterns = patternsOf(input.text);
  return sql<Person[]>`
    select ${peopleRows.list(tx, 'p')} from person p
    where organization = ${organization}
    ${input.who === 'everybody' ? sql`` : sql`and state <> 'left'`}
    ${input.who === 'members' ? sql`and kind = 'member'` : sql``}
    ${patterns.length === 0 ? sql`` : sql`and id in (select search_people(${patterns}))`}
    order by lower(name), id limit ${input.most ?? mostFound}`;
}
