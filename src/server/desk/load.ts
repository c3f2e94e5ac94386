import { type Verb, verbs } from '@/core/route/verbs';
import type { Instant } from '@/core/time/instant';
import { visibleTo } from '../circulation/visible';
import type { Tx } from '../db/connect';
import type { Member } from '../operations/operation';
import { rulesOf } from '../organization/rules';

/** What waits for one person now. */
interface PersonLoad {
  readonly person: string;
  readonly open: number;
  readonly late: number;
  /** Since when the task waits that has waited longest. */
  readonly longest: Instant;
  /** How long tasks have waited on average, in milliseconds. */
  readonly average: number;
}

/** What waits by what is asked, of which type of document, in the circulations that the reader may see. */
interface KindLoad {
  readonly verb: Verb;
  readonly documentType: string;
  readonly open: number;
  readonly late: number;
  readonly longest: Instant;
  readonly average: number;
}

/**
 * Who has how much, how late, and where it waits longest. Figures of a person are for that person alone, and by rule for
 * whoever leads their unit; by kinds of work they are no person's.
 */
export async function loadOf(tx: Tx, actor: Member): Promise<{ people: PersonLoad[]; kinds: KindLoad[] }> {
  const { sql, organization, now } = tx;
  const leads = (await rulesOf(tx)).includes('leadsSteer');
  const people = await sql<PersonLoad[]>`
    select t.person, count(*)::int as open, count(*) filter (where t.due < ${now})::int as late, min(t.since) as longest,
           avg(${now} - t.since)::bigint as average
    from task t
    where t.organization = ${organization} and t.doing = any(${[...verbs]}) and (t.person = ${actor.person}
      ${
        leads
          ? sql`or t.person in (
        select p.id from person p join unit u on u.organization = p.organization and u.id = p.unit
        where p.organization = ${organization} and ${actor.person} in (u.lead, u.deputy))`
          : sql``
      })
    group by t.person order by late desc, open desc, t.person`;
  const visible = await visibleTo(tx, actor);
  const kinds = await sql<KindLoad[]>`
    select t.doing as verb, r.document_type, count(distinct (t.stream, t.seat))::int as open,
           count(distinct (t.stream, t.seat)) filter (where t.due < ${now})::int as late, min(t.since) as longest,
           avg(${now} - t.since)::bigint as average
    from task t
    join circulation c on c.organization = t.organization and c.stream = t.stream
    join register r on r.organization = c.organization and r.record = c.record
    where t.organization = ${organization} and t.doing = any(${[...verbs]}) ${visible.where}
    group by t.doing, r.document_type order by average desc, t.doing, r.document_type`;
  return { people: [...people], kinds: [...kinds] };
}
