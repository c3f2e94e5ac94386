import { findPeople } from '../admin/list';
import { visibleTo } from '../circulation/visible';
import type { Tx } from '../db/connect';
import { patternsOf } from '../lists';
import type { Member } from '../operations/operation';

const most = 8;

/** What the find box finds by number, title and name: documents, circulations that the actor may see, people. */
export async function find(tx: Tx, text: string, actor: Member) {
  const { sql, organization } = tx;
  const patterns = patternsOf(text);
  if (patterns.length === 0) return { records: [], circulations: [], people: [] };
  const records = await sql<
    { record: string; number: string; title: string; revision: string | null; inProgress: string | null }[]
  >`
    select record, number, title, revision, in_progress from register
    where organization = ${organization} and record = any(array(select search_register(${patterns}, '', ${most})))
    order by number collate "C"`;
  const visible = await visibleTo(tx, actor);
  const circulations = await sql<{ id: string; number: string; phase: string; document: string; title: string }[]>`
    select c.id, c.number, c.phase, r.number as document, r.title
    from circulation c join register r on r.organization = c.organization and r.record = c.record
    where c.organization = ${organization}
      and c.stream in (select search_streams(${patterns}))
      ${visible.where}
    order by c.rank, c.sort, c.id collate "C" limit ${most}`;
  const people = (await findPeople(tx, { text, who: 'everybody', most })).map(({ id, name, tile, work, company }) => ({
    id,
    name,
    tile,
    work: [work, company].filter(Boolean).join(', '),
  }));
  return { records: [...records], circulations: [...circulations], people };
}
