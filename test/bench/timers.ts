import { createHash, randomUUID } from 'node:crypto';
import postgres from 'postgres';
import { atInstant, freshSeat, freshStage } from '@/core/route/route';
import { addPerson } from '@/server/admin/people';
import { foundOrganization } from '@/server/admin/setup';
import { act } from '@/server/circulation/act';
import { circulationState } from '@/server/circulation/load';
import { startChange, takeCirculationNumber } from '@/server/circulation/startChange';
import { disconnect, inOrganization } from '@/server/db/connect';
import { putPayload } from '@/server/events/payloads';
import { wakeDue } from '@/server/jobs/work';
import { actOnRecord } from '@/server/register/act';
import { settings } from '@/server/settings';

/**
 * 10,000 seats that close in the same minute, while 1,000,000 timers wait for other days: the worker wakes each circulation
 * with the whole engine, events, read tables and messages. Prints JSON.
 */
const [due, waiting] = [10_000, 1_000_000];
const hour = 3_600_000;
const organization = randomUUID();
const owner = postgres(settings().databaseUrl, { max: 1, onnotice: () => {} });

/** One circulation in which somebody has an hour to review it. */
async function first(): Promise<string> {
  await foundOrganization({ id: organization, name: 'Large', zone: 'UTC', prefix: 'LG' });
  const number = await takeCirculationNumber(organization);
  return inOrganization(organization, async (tx) => {
    for (const [id, name] of [
      ['ada', 'Ada Lund'],
      ['otto', 'Otto Brand'],
    ] as const)
      await addPerson(tx, {
        id,
        kind: 'member',
        name,
        email: `${id}@large.example`,
        work: '',
        company: '',
        zone: 'UTC',
        roles: ['controller'],
        state: 'active',
      });
    const record = randomUUID();
    const facts = {
      number: 'LG-PRO-1',
      title: 'Rope',
      documentType: 'PRO',
      owner: 'ada',
      unit: null,
      details: {},
      complete: true,
    };
    await actOnRecord(tx, record, { type: 'record.created', data: facts }, 'ada');
    const stage = {
      ...freshStage('review', 'review', [freshSeat('seat', { kind: 'person', person: 'otto' })]),
      closes: atInstant(tx.now + hour),
    };
    const { circulation } = await startChange(tx, {
      number,
      records: [record],
      reason: putPayload(tx, 'New values'),
      author: 'ada',
      controller: 'ada',
      plan: { kind: 'series', id: 'root', parts: [stage] },
    });
    const file = createHash('sha256').update('rope').digest('hex');
    const document = { id: 'main', file, name: 'rope.pdf', role: 'document', record, bytes: 1 } as const;
    const files = [{ ...document, mediaType: 'application/pdf' }];
    await act(tx, circulation, { type: 'attach', version: { number: 1, files } }, 'ada');
    await act(tx, circulation, { type: 'send', releasesItself: false }, 'ada');
    return circulation;
  });
}

/** The same circulation many times over, and timers of other days; written past the engine, because only waking counts. */
async function many(id: string): Promise<void> {
  const copies = async (table: string, changes: Readonly<Record<string, string>>) => {
    const columns = await owner<{ name: string }[]>`
      select column_name as name from information_schema.columns where table_name = ${table} and table_schema = 'public'`;
    const names = columns.map(({ name }) => name);
    const values = names.map((name) => changes[name] ?? `t.${name}`);
    const key = table === 'circulation' ? 'id' : table === 'event' ? 'stream' : 'circulation';
    const own = table === 'event' ? `circulation:${id}` : id;
    await owner.unsafe(
      `insert into ${table} (${names.join(', ')})
       select ${values.join(', ')} from ${table} t cross join generate_series(2, ${due}) n
       where t.organization = '${organization}' and t.${key} = '${own}'`,
    );
  };
  await owner`select set_config('avenda.organization', ${organization}, false)`;
  // The number stands in the event, too.
  const numbered = `case when t.type = 'circulation.created'
    then jsonb_set(t.data::jsonb, '{number}', to_jsonb('K-' || n))::text else t.data end`;
  await copies('event', { stream: `'circulation:k' || n`, data: numbered });
  await copies('circulation', { id: `'k' || n`, number: `'K-' || n` });
  for (const table of ['task', 'timer', 'involvement'])
    await copies(table, { circulation: `'k' || n`, ...(table === 'task' ? { key: `t.key || n` } : {}) });
  await owner.unsafe(
    `insert into timer (organization, circulation, kind, key, at)
     select '${organization}', 'far' || n, 'closes', 'seat', ${Date.now() + 1000 * hour} + n from generate_series(1, ${waiting}) n`,
  );
  // What was filled in is settled before anything is measured.
  await owner`vacuum analyze`;
  await owner`checkpoint`;
}

await many(await first());
await owner`insert into clock (forward_ms) values (${2 * hour}) on conflict (singleton) do update set forward_ms = ${2 * hour}`;
const began = performance.now();
while ((await wakeDue(organization)) > 0);
const seconds = (performance.now() - began) / 1000;
const missed = await inOrganization(organization, async (tx) => {
  const [row] = await tx.sql<{ n: number }[]>`
    select count(*)::int as n from event where organization = ${organization} and type = 'seat.missed'`;
  const last = await circulationState(tx, `k${due}`);
  return last?.seats.get('seat')?.status === 'missed' ? (row?.n ?? 0) : 0;
});
if (missed !== due) throw new Error(`${missed} of ${due} seats were closed`);
process.stdout.write(`${JSON.stringify({ due, waiting, seconds })}\n`);
await owner.end();
await disconnect();
process.exit(0);
