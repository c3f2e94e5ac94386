import type { Past } from '@/core/people/past';
import { notify, sendWrite, type Tx } from '../db/connect';
import { notShown, payloads, putPayload } from '../events/payloads';
import { reckonAnew } from '../reminders/reckon';
import { recordAdministration } from './administration';
import { recordMember } from './members';
import { type Person, tileOf } from './people';

type Described = Pick<Person, 'name' | 'work' | 'company'>;

/**
 * Changes what is said of a person. How they were called until now is kept, so that what happened before is told with the
 * names of its time.
 */
export async function describePerson(
  tx: Tx,
  found: Person,
  given: Partial<Described & Pick<Person, 'zone' | 'roles'>>,
  actor: string,
): Promise<void> {
  const { sql, organization, now } = tx;
  const { id: person } = found;
  const next = { ...found, ...given };
  sendWrite(sql`
    update person set name = ${next.name}, tile = ${tileOf(next.name)}, work = ${next.work}, company = ${next.company},
      zone = ${next.zone}, roles = ${next.roles as string[]}
    where organization = ${organization} and id = ${person}`);
  if (next.name !== found.name || next.work !== found.work || next.company !== found.company) {
    const before = putPayload(tx, JSON.stringify(said(found)));
    const after = putPayload(tx, JSON.stringify(said(next)));
    sendWrite(sql`
      insert into person_past (organization, person, until, before) values (${organization}, ${person}, ${now}, ${before})
      on conflict do nothing`);
    await recordAdministration(tx, { type: 'person.described', data: { person, before, after } }, actor);
  }
  if (found.kind === 'member') await recordMember(tx, person, found, next, actor);
  if (next.name !== found.name)
    sendWrite(sql`
      update register_search s set words = lower(concat_ws(' ', r.number, r.title, t.name, ${next.name}::text))
      from register r
      left join document_type t on t.organization = r.organization and t.code = r.document_type
      where r.organization = ${organization} and r.owner = ${person} and s.organization = r.organization and s.record = r.record`);
  if (next.zone !== found.zone) reckonAnew(tx, person);
  notify(tx, 'people');
}

const said = ({ name, work, company }: Described): Described => ({ name, work, company });

/** How these people were called before, wherever that has changed. */
export async function pastOf(tx: Tx, people: Iterable<string>): Promise<Past[]> {
  const wanted = [...new Set(people)];
  if (wanted.length === 0) return [];
  const rows = await tx.sql<{ person: string; until: number; before: string }[]>`
    select person, until, before from person_past
    where organization = ${tx.organization} and person = any(${wanted}) order by person, until`;
  const found = await payloads(
    tx,
    rows.map((row) => row.before),
  );
  return rows.map(({ person, until, before }) => {
    const payload = found.get(before);
    if (payload?.state === 'intact') return { person, until, ...(JSON.parse(payload.content) as Described) };
    return { person, until, name: notShown[payload?.state ?? 'changed'], work: '', company: '' };
  });
}
