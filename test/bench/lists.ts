import { randomUUID } from 'node:crypto';
import postgres from 'postgres';
import { openSession } from '@/server/auth/sessions';
import { disconnect, inOrganization } from '@/server/db/connect';
import { urlFor } from '@/server/db/roles';
import { handle } from '@/server/operations/handle';
import type { Operation } from '@/server/operations/operation';
import { registry } from '@/server/operations/registry';
import { settings } from '@/server/settings';

/**
 * Lists of a large organization (100,000 tasks of one person, 20,000 circulations, 200,000 records, 20,000 people) beside their bare
 * SQL: the same rows and counts as a query without a name reads them, in a transaction of the same role under the same row
 * security, prepared and warm. Prints JSON.
 */
const sizes = { records: 200_000, circulations: 20_000, tasks: 100_000, people: 20_000, desks: 5_000 } as const;
const organization = randomUUID();
const { databaseUrl, secret } = settings();
const owner = postgres(databaseUrl, { max: 1, onnotice: () => {} });

async function fill(): Promise<void> {
  await owner`insert into organization (id) values (${organization})`;
  await owner.begin(async (tx) => {
    await tx`select set_config('avenda.organization', ${organization}, true)`;
    await tx`insert into profile (organization, name, zone, prefix) values (${organization}, 'Large', 'UTC', 'LG')`;
    await tx`
      insert into person (organization, id, kind, name, tile, email, work, company, zone, roles, state, created)
      values (${organization}, 'ada', 'member', 'Ada Lund', 'AL', 'ada@large.example', '', '', 'UTC', '{controller}', 'active', 0)`;
    // Ada is one of them; the filters of the other lists find here what they find there.
    await tx`
      insert into person (organization, id, kind, name, tile, email, work, company, zone, roles, state, created)
      select ${organization}, 'p' || n, 'member', 'Person ' || md5(n::text), 'P' || n % 10,
             'lg-pro-' || lpad(n::text, 6, '0') || '@large.example', 'Knows about ropes', '', 'UTC', '{}', 'active', 0
      from generate_series(1, ${sizes.people}::int) n`;
    await tx`
      insert into register (organization, record, number, title, document_type, owner, complete, changed)
      select ${organization}, 'r' || n, 'LG-PRO-' || lpad(n::text, 6, '0'),
             'Record about ' || (array['ropes','masts','grips','brakes','sheaves'])[1 + n % 5] || ' ' || md5(n::text), 'PRO', 'ada', true, n
      from generate_series(1, ${sizes.records}::int) n`;
    await tx`
      insert into register_search (organization, record, number, words)
      select organization, record, number, lower(number || ' ' || title) from register where organization = ${organization}`;
    await tx`
      insert into circulation (organization, id, number, record, records, change, controller, author, phase, round, version, stops,
             seats, decided, holders, next_due, created, sent, ended, last, rank, sort, line)
      select ${organization}, 'c' || n, 'C-' || n, 'r' || n, array['r' || n], 'x' || n, 'ada', 'ada', 'running', 1, 1, 0, 5, 2,
             array['ada'], n * 1000, 0, 0, null, n, case when n % 50 = 0 then 0 else 1 end, n * 1000, 'n ur.dtundn us.an'
      from generate_series(1, ${sizes.circulations}::int) n`;
    await tx`
      insert into task (organization, stream, person, doing, seat, about, since, due, rank, sort, key, kept)
      select ${organization}, 'circulation:c' || (1 + n % ${sizes.circulations}), 'ada', 'review', 's' || n, 'ada', 0, n * 1000, 1, n * 1000, 's' || n, '{}'
      from generate_series(1, ${sizes.tasks}::int) n`;
    // A hundred thousand more tasks, of five thousand people.
    await tx`
      insert into task (organization, stream, person, doing, seat, about, since, due, rank, sort, key, kept)
      select ${organization}, 'circulation:c' || (1 + n % ${sizes.circulations}), 'p' || (1 + n % ${sizes.desks}), 'review', 'd' || n, 'ada',
             0, n * 1000, 1, n * 1000, 'd' || n, '{}'
      from generate_series(1, ${sizes.tasks}::int) n`;
  });
  await owner`analyze`;
}

const median = (values: readonly number[]) =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] as number;

interface Page {
  readonly rows: readonly object[];
  readonly next: string | null;
}

const names = {
  register: 'register.list',
  circulations: 'circulation.list',
  tasks: 'desk.tasks',
  desk: 'desk.tasks',
  people: 'people.list',
} as const;
type List = keyof typeof names;

async function main(): Promise<void> {
  await fill();
  const cookieOf = (person: string) => inOrganization(organization, (tx) => openSession(tx, person, '127.0.0.1'));
  const cookies = { ada: await cookieOf('ada'), desk: await cookieOf('p77') };
  const ask = async (list: List, input: object): Promise<Page> => {
    const answer = await handle(registry.get(names[list]) as Operation, input, {
      address: '127.0.0.1',
      agent: '',
      by: { kind: 'session', secret: list === 'desk' ? cookies.desk : cookies.ada },
      page: undefined,
      setCookie: () => {},
    });
    if (!answer.ok) throw new Error(answer.refusal.sentence);
    return answer.value as Page;
  };
  const bare = postgres(urlFor(databaseUrl, secret, 'avenda_app'), {
    max: 1,
    transform: postgres.camel,
    onnotice: () => {},
  });
  const inBare = <T>(work: (tx: postgres.TransactionSql) => Promise<T>) =>
    bare.begin(async (tx) => {
      await tx`select set_config('avenda.organization', ${organization}, true)`;
      return work(tx);
    });
  const tasksOf = (person: string, filter: string, after: readonly unknown[] | null): Promise<number> =>
    inBare(async (tx) => {
      const like = filter ? tx`and t.stream in (select search_streams(${[`%${filter}%`]}))` : tx``;
      const from = tx`from task t join circulation c on c.organization = t.organization and c.stream = t.stream
          join register r on r.organization = c.organization and r.record = c.record`;
      const mine = tx`where t.organization = ${organization} and t.person = ${person}`;
      const behind = after
        ? tx`and (t.rank, t.sort, t.key) > (${after[0] as number}, ${after[1] as number}, ${after[2] as string})`
        : tx``;
      const rows = await tx`
          select t.*, c.number as circulation_number, c.line, r.number, r.title ${from} ${mine} ${like} ${behind}
          order by t.rank, t.sort, t.key limit 61`;
      if (!after)
        await tx`select count(*), count(*) filter (where rank = 0), count(*) filter (where due < 5000)
                   from (select t.rank, t.due from task t ${mine} ${like} order by t.rank, t.sort, t.key limit 5005) x`;
      return Math.min(rows.length, 60);
    });
  /** The same page and count, written down for this one list alone. */
  const bareOf: { readonly [L in List]: (filter: string, after: readonly unknown[] | null) => Promise<number> } = {
    register: (filter, after) =>
      inBare(async (tx) => {
        const from = String(after?.[0] ?? '');
        if (filter) {
          const found = await tx`
            select * from register where organization = ${organization}
              and record = any(array(select search_register(${[`%${filter}%`]}, ${from}, 61))) order by number collate "C"`;
          if (!after) await tx`select count_register(${[`%${filter}%`]}, 1001)`;
          return Math.min(found.length, 60);
        }
        const rows = await tx`
          select * from register where organization = ${organization} and number collate "C" > ${from}
          order by number collate "C" limit 61`;
        if (!after)
          await tx`select count(*) from (select from register where organization = ${organization} limit 1001) x`;
        return Math.min(rows.length, 60);
      }),
    circulations: (filter, after) =>
      inBare(async (tx) => {
        const like = filter ? tx`and c.stream in (select search_streams(${[`%${filter}%`]}))` : tx``;
        const from = tx`from circulation c join register r on r.organization = c.organization and r.record = c.record`;
        const behind = after
          ? tx`and (c.rank, c.sort, c.id collate "C") > (${after[0] as number}, ${after[1] as number}, ${after[2] as string})`
          : tx``;
        const rows = await tx`
          select c.*, r.number as document, r.title ${from} where c.organization = ${organization} ${like} ${behind}
          order by c.rank, c.sort, c.id collate "C" limit 51`;
        if (!after)
          await tx`select count(*), count(*) filter (where rank = 0), count(*) filter (where next_due < 5000)
                   from (select c.rank, c.next_due ${from} where c.organization = ${organization} ${like}
                         order by c.rank, c.sort, c.id collate "C" limit 1001) x`;
        return Math.min(rows.length, 50);
      }),
    tasks: (filter, after) => tasksOf('ada', filter, after),
    desk: (filter, after) => tasksOf('p77', filter, after),
    people: (filter, after) =>
      inBare(async (tx) => {
        const like = filter ? tx`and id in (select search_people(${[`%${filter}%`]}))` : tx``;
        const behind = after
          ? tx`and (kind, lower(name), id) > (${after[0] as string}, ${after[1] as string}, ${after[2] as string})`
          : tx``;
        const rows = await tx`
          select id, kind, name, tile, email, work, company, zone, roles, state from person
          where organization = ${organization} ${like} ${behind} order by kind, lower(name), id limit 61`;
        if (!after)
          await tx`select
            (select count(*) from (select from person where organization = ${organization} ${like} and kind = 'member' limit 1001) x),
            (select count(*) from (select from person where organization = ${organization} ${like} and kind = 'outside' limit 1001) x)`;
        return Math.min(rows.length, 60);
      }),
  };
  const far: { readonly [L in List]: readonly unknown[] } = {
    register: ['LG-PRO-029940'],
    circulations: [1, 19_500 * 1000, 'c19500'],
    tasks: [1, 29_940 * 1000, 's29940'],
    desk: [1, 0, ''],
    people: ['member', 'person c', ''],
  };
  const cursor = (list: List) => (list === 'register' ? String(far.register[0]) : JSON.stringify(far[list]));
  const results = [];
  for (const list of ['register', 'circulations', 'tasks', 'people', 'desk'] as const)
    for (const [what, filter, after] of [
      ['the first page', '', null],
      ['a far page', '', far[list]],
      ['a filter that matches none', 'zzqqxx', null],
      ['a filter that matches one', 'lg-pro-012345', null],
      ['a filter that matches all', 'about', null],
    ] as const) {
      const input = { ...(list === 'circulations' ? { state: 'all' } : {}), filter, after: after && cursor(list) };
      const ours = () => ask(list, input);
      const theirs = () => bareOf[list](filter, after);
      const page = await ours();
      const rows = await theirs();
      if (page.rows.length !== rows) throw new Error(`${list}, ${what}: ${page.rows.length} rows beside ${rows}`);
      const times = { ours: [] as number[], theirs: [] as number[] };
      for (let round = 0; round < 25; round += 1)
        for (const [which, run] of [
          ['ours', ours],
          ['theirs', theirs],
        ] as const) {
          const began = performance.now();
          await run();
          if (round >= 5) times[which].push(performance.now() - began);
        }
      results.push({
        list,
        what,
        rows,
        kilobytes: JSON.stringify(page).length / 1000,
        ours: median(times.ours),
        theirs: median(times.theirs),
        ratio: median(times.ours.map((value, i) => value / (times.theirs[i] as number))),
      });
    }
  await bare.end();
  process.stdout.write(`${JSON.stringify(results)}\n`);
}

await main();
await owner.end();
await disconnect();
process.exit(0);
