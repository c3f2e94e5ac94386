import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { organization, type World, world } from './world';

/** More of everything than is looked through before an index is asked. */
const many = 1300;
const kinds = ['rope', 'mast', 'grip', 'brake', 'sheave'];

let w: World;
beforeAll(async () => {
  w = await world();
  await w.inOrganization(organization, async ({ sql }) => {
    await sql`
      insert into person (organization, id, kind, name, tile, email, work, company, zone, roles, state, created)
      select ${organization}, 'found' || n, case when n % 3 = 0 then 'outside' else 'member' end,
             'Person ' || n || ' ' || (${kinds}::text[])[1 + n % 5] || 'son', 'PN', 'p' || n || '@found.example',
             case when n % 97 = 0 then 'Rare 100% work' else 'Works' end, '', 'UTC', '{}', 'active', 0
      from generate_series(1, ${many}::int) n`;
    await sql`
      insert into register (organization, record, number, title, document_type, owner, complete, changed)
      select ${organization}, 'found' || n, 'FD-' || lpad(n::text, 5, '0'),
             'Check of the ' || (${kinds}::text[])[1 + n % 5] || case when n > 1250 then ' late-come' else '' end, 'PRO', 'oskar', true, n
      from generate_series(1, ${many}::int) n`;
    await sql`
      insert into register_search (organization, record, number, words)
      select organization, record, number, lower(number || ' ' || title) from register
      where organization = ${organization} and starts_with(record, 'found')`;
    await sql`
      insert into circulation (organization, id, number, record, records, change, controller, author, phase, round, version,
             stops, seats, decided, holders, next_due, created, sent, ended, last, rank, sort, line)
      select ${organization}, 'found' || n, 'C-9' || lpad(n::text, 5, '0'), 'found' || n, array['found' || n], 'x' || n,
             'ines', 'found' || n, 'running', 1, 1, 0, 5, 2, array['yuki'], n * 1000, 0, 0, null, n,
             case when n % 50 = 0 then 0 else 1 end, n * 1000, 'n ur.dtundn us.an'
      from generate_series(1, ${many}::int) n`;
    await sql`
      insert into task (organization, stream, person, doing, seat, about, since, due, rank, sort, key, kept)
      select ${organization}, 'circulation:found' || n, 'yuki', 'review', 's' || n, 'ines', 0, n * 1000, 1, n * 1000, 'found' || n || '/s', '{}'
      from generate_series(1, ${many}::int) n`;
  });
});
afterAll(async () => {
  await w.close();
});

type Named = 'desk.tasks' | 'circulation.list' | 'people.list' | 'register.list';

/** All rows of a list, page by page, and what the first page counts. */
async function everyRow(name: Named, input: object): Promise<{ rows: Record<string, unknown>[]; first: object }> {
  const rows: Record<string, unknown>[] = [];
  let first: object | null = null;
  for (let after: string | null = null; ; ) {
    const answer = await w.answer(name === 'desk.tasks' ? 'yuki' : 'ines', name, { ...input, after });
    if (!answer.ok) throw new Error(answer.refusal.sentence);
    const page = answer.value as { rows: Record<string, unknown>[]; next: string | null };
    rows.push(...page.rows);
    first ??= page;
    after = page.next;
    if (!after) return { rows, first };
  }
}

const filters = [
  'rope',
  'RARE 100%',
  'late-come',
  'late-come mast',
  '00777',
  'zzqq',
  'f',
  'e o',
  '_',
  'found77',
  'person',
];
const fits = (words: string, filter: string) =>
  filter
    .toLowerCase()
    .split(' ')
    .every((word) => words.toLowerCase().includes(word));

describe('a filter', () => {
  it('of every list gives exactly the rows whose words hold each of its words, in the order of the list', async () => {
    const nameOf = new Map(
      (
        await w.inOrganization(
          organization,
          ({ sql }) => sql<{ id: string; name: string }[]>`select id, name from person`,
        )
      ).map(({ id, name }) => [id, name]),
    );
    const name = (id: unknown) => nameOf.get(String(id)) ?? '';
    const wordsOf: { readonly [N in Exclude<Named, 'register.list'>]: (row: Record<string, unknown>) => string } = {
      'desk.tasks': (row) =>
        [row.circulationNumber, row.number, row.title, name(row.controller), name(row.author), 'Yuki'].join(' '),
      'circulation.list': (row) =>
        [
          row.number,
          row.document,
          row.title,
          name(row.controller),
          name(row.author),
          ...(row.holders as string[]).map(name),
        ].join(' '),
      'people.list': (row) => [row.name, row.work, row.company, row.email].join(' '),
    };
    let found = 0;
    for (const list of ['desk.tasks', 'circulation.list', 'people.list'] as const)
      for (const order of list === 'circulation.list' ? ['need', 'title', 'activity'] : [null]) {
        const more = order === null ? {} : { order, state: 'all' };
        const all = await everyRow(list, { ...more, filter: '' });
        for (const filter of filters) {
          const expected = all.rows.filter((row) => fits(wordsOf[list](row), filter));
          const { rows, first } = await everyRow(list, { ...more, filter });
          expect(rows, `${list} ${order} ${filter}`).toEqual(expected);
          found += rows.length;
          const counts = (first as { counts: Record<string, number> }).counts;
          if (list === 'people.list')
            for (const [kind, key] of [
              ['member', 'members'],
              ['outside', 'outside'],
            ] as const)
              expect(counts[key], `${kind} ${filter}`).toBe(
                Math.min(1001, expected.filter((row) => row.kind === kind).length),
              );
          else expect(counts.all, `${list} ${filter}`).toBe(Math.min(1001, expected.length));
        }
      }
    expect(found).toBeGreaterThan(10_000);
  });

  it('finds records by what their titles say, the rare ones and the common ones', async () => {
    const all = (await everyRow('register.list', {})).rows.filter((row) => String(row.number).startsWith('FD-'));
    for (const filter of ['late-come', 'late-come mast', 'check of', 'fd-00777', 'zzqq', 'rope fd-0012']) {
      const expected = all.filter((row) => fits(`${row.number} ${row.title}`, filter));
      const { rows, first } = await everyRow('register.list', { filter });
      expect(rows, filter).toEqual(expected);
      expect((first as { count: number }).count, filter).toBe(Math.min(1001, expected.length));
    }
  });

  it('follows names and titles as they change', async () => {
    const found = async (filter: string) =>
      (await w.ask('ines', 'circulation.list', { filter, state: 'all' })).rows.map(({ id }) => id);
    await w.inOrganization(organization, async ({ sql }) => {
      await sql`update person set name = 'Zora Quince' where organization = ${organization} and id = 'found1290'`;
      await sql`update register set title = 'Quill and ink' where organization = ${organization} and record = 'found1291'`;
      await sql`update circulation set holders = '{found1290}' where organization = ${organization} and id = 'found1292'`;
    });
    expect(await found('quince')).toEqual(['found1290', 'found1292']);
    expect(await found('quill')).toEqual(['found1291']);
    expect(await found('person 1290')).toEqual([]);
    await w.inOrganization(
      organization,
      ({ sql }) => sql`delete from circulation where organization = ${organization} and id = 'found1291'`,
    );
    expect(await found('quill')).toEqual([]);
    expect(await w.ask('ines', 'people.find', { text: 'quince', who: 'anybody' })).toHaveLength(1);
  });
});
