import { randomUUID } from 'node:crypto';
import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import type { Actor } from '@/core/access/may';
import { covers, visibilityOf } from '@/core/access/may';
import { usualPreferences } from '@/core/circulation/telling/preferences';
import { checkChain } from '@/core/trail/chain';
import { urlFor } from '@/server/db/roles';
import { inSeries, neighbours, organization, stage, type World, world } from './world';

let w: World;
let circulation = '';
let change = '';
let record = '';
let draft = '';
beforeAll(async () => {
  w = await world();
  ({ record } = await w.ask('ines', 'record.create', {
    title: 'Grip test',
    documentType: 'WI',
    owner: 'rufus',
  }));
  ({ circulation, change } = await w.ask('ines', 'change.start', {
    records: [record],
    reason: 'Torque',
    author: 'rufus',
  }));
  const file = await w.pdf('Grip test');
  draft = file.hash;
  await w.ask('rufus', 'draft.setFile', { change, document: 'main', edit: 0, file: file.hash, name: 'grip.pdf' });
  await w.ask('rufus', 'draft.submit', { change });
  await w.ask('ines', 'circulation.plan', {
    circulation,
    note: 'Please',
    route: inSeries(
      stage('review', ['yuki', 'petra', 'jarek'], { closes: Date.now() + 3_600_000_000 }),
      stage('approve', ['oskar']),
    ),
  });
  await w.ask('ines', 'circulation.send', { circulation });
});
afterAll(async () => {
  await w.close();
});

const seatOf = async (person: string) => {
  const view = await w.ask('ines', 'circulation.view', { circulation });
  const seat = view.seats.find((candidate) => candidate.holder === person);
  if (!seat) throw new Error(`${person} has no seat`);
  return { circulation, seat: seat.id, epoch: seat.epoch, scope: seat.scope ?? '' };
};

describe('rights', () => {
  const some = randomUUID();
  const hash = 'a'.repeat(64);
  /** An input that passes each operation's schema; ids of the real circulation, record and change where one is named. */
  const inputs = (): Record<string, object> => ({
    'circulation.list': {},
    'filters.keep': { filters: [] },
    'desk.many': { circulations: [circulation], act: { kind: 'remind' } },
    'circulation.plan': { route: inSeries() },
    'circulation.putFields': { file: 'main', content: hash, fields: [] },
    'told.list': { all: false },
    'told.putAway': { until: 1 },
    'told.prefer': { preferences: usualPreferences },
    'told.level': { circulation },
    'told.follow': { circulation, level: 'usual' },
    'notes.view': { circulation },
    'notes.keep': { circulation, text: 'Ask Petra', back: null },
    'circulation.see': { seat: some, epoch: 1, scope: hash },
    'circulation.comment': { comment: some, file: hash, note: 'w' },
    'circulation.resolveComment': { comment: some },
    'circulation.reopenComment': { comment: some },
    'circulation.confirmRound': { basis: hash, keep: [] },
    'circulation.extend': { seat: some },
    'circulation.pass': { seat: some },
    'circulation.setTimes': { stage: some, due: null, closes: null },
    'circulation.askAgain': { seat: some, due: null, closes: null },
    'circulation.remind': { seat: some },
    'circulation.take': { seat: some, epoch: 1 },
    'circulation.giveBack': { seat: some, epoch: 1 },
    'circulation.name': { seat: some, epoch: 1, names: some, to: { kind: 'person', person: 'yuki' } },
    'circulation.agree': { seat: some, epoch: 1, agreed: true },
    'circulation.endGathering': { stage: some },
    'circulation.extendWhole': { due: null, closes: null },
    'circulation.setEnough': { stage: some, k: 1 },
    'circulation.handControl': { to: 'yuki' },
    'circulation.askQuestion': { seat: some, epoch: 1, question: 'q', text: 'w' },
    'circulation.answerQuestion': { question: 'q', text: 'w' },
    'circulation.previewAmendment': {
      basis: hash,
      route: { kind: 'series', id: 'r', parts: [] },
      whole: null,
      files: null,
    },
    'circulation.amend': { basis: hash, route: { kind: 'series', id: 'r', parts: [] }, whole: null, files: null },
    'circulation.asItWas': { sequence: 1 },
    'circulation.parts': { parts: ['talk'] },
    'circulation.setReminders': { plan: { left: [50], lastMorning: false, controller: false, third: null } },
    'circulation.correctAddress': { seat: some, email: 'sanna@example.org' },
    'circulation.giveFacts': { facts: {} },
    'units.people': { units: ['u'] },
    'units.save': { id: 'u', name: 'Unit' },
    'units.remove': { id: 'u' },
    'people.place': { person: 'yuki' },
    'absences.save': { id: some, person: 'petra', from: 1, to: 2, covers: [] },
    'absences.end': { id: some },
    'groups.save': { id: 'g', name: 'Group', members: ['yuki'] },
    'groups.remove': { id: 'g' },
    'roles.save': { id: 'r', name: 'Role' },
    'roles.remove': { id: 'r' },
    'calendars.save': {
      id: 'c',
      name: 'Calendar',
      week: [[{ from: 1, to: 2 }], [], [], [], [], [], []],
      holidays: [],
      usual: false,
    },
    'calendars.remove': { id: 'c' },
    'calendars.readHolidays': { content: 'x' },
    'rules.set': { rule: 'leadsSteer', on: true },
    'organization.table': { table: 'people' },
    'organization.readTable': { table: 'people', content: 'x' },
    'organization.importTable': { table: 'people', content: 'x' },
    'circulation.remindLate': {},
    'people.held': { person: 'petra' },
    'people.reassignAll': { from: 'petra', to: { kind: 'person', person: 'yuki' } },
    'circulation.delegate': { seat: some, epoch: 1, to: 'yuki' },
    'circulation.reassign': { seat: some, to: { kind: 'person', person: 'yuki' } },
    'circulation.addSecondHolder': { seat: some, person: 'yuki' },
    'circulation.dropSecondHolder': { seat: some, person: 'yuki' },
    'circulation.withdraw': { reason: 'w' },
    'circulation.copyLink': { seat: some },
    'circulation.linkAddress': { seat: some },
    'seat.mine': { seat: some },
    'seat.decideMine': { seat: some, epoch: 1, scope: hash, outcome: 'done' },
    'letters.mark': { text: 'w' },
    'seat.mark': { text: 'w' },
    'seat.see': { scope: hash },
    'seat.delegate': { name: 'Sanna', email: 'sanna@example.org' },
    'seat.askQuestion': { question: 'q', text: 'w' },
    'seat.name': { names: some, name: 'Sanna', email: 'sanna@example.org' },
    'seat.comment': { comment: 'r', file: hash, note: 'w' },
    'seat.settleComment': { comment: 'r', resolved: true },
    'seat.decide': { seat: some, epoch: 1, scope: hash, outcome: 'done' },
    'record.create': { title: 't', documentType: 'PRO', owner: 'rufus' },
    'record.describe': { title: 't', documentType: 'PRO', owner: 'rufus' },
    'change.start': { records: [record], reason: 'w', author: 'rufus' },
    'draft.saveText': { document: 'main', edit: 0, story: { format: 1, blocks: [] } },
    'draft.choose': { document: 'main', edit: 0, source: 'text' },
    'draft.setFile': { document: 'main', edit: 0, file: hash, name: 'n' },
    'draft.setAttachments': { edit: 0, files: [] },
    'draft.addDocument': { edit: 0, file: hash, name: 'n' },
    'draft.removeDocument': { document: 'main', edit: 0 },
    'desk.find': { text: 'x' },
    'desk.chase': { acts: [{ circulation: some, seat: some, act: 'remind' }] },
    'desk.sendQuick': { file: hash, name: 'n', title: 't', people: [{ kind: 'person', person: 'yuki' }] },
    'people.add': { name: 'New Person', email: 'new@mr.example', zone: 'Europe/Oslo' },
    'people.named': { people: ['petra'] },
    'people.find': { text: 'petra', who: 'anybody' },
    'session.changePassword': { before: 'x', password: 'y' },
    'session.describe': { name: 'Changed Name', zone: 'Europe/Oslo' },
    'people.copyAccess': { person: 'yuki' },
    'people.describe': { person: 'yuki', name: 'Changed Name' },
    'types.describe': { type: 'XX', name: 'Types', scheme: 'X-00', active: true, marginLine: false, added: true },
    'steps.done': { step: 'all' },
    'people.inviteAgain': { person: 'yuki' },
    'people.leave': { person: 'yuki', left: true },
    'people.addOutside': { name: 'Out Side', email: 'out@x.example', zone: 'Europe/Oslo' },
  });
  const inputFor = (name: string) => ({
    ...(name.startsWith('circulation.') && name !== 'circulation.list' ? { circulation } : {}),
    ...(['seat.mine', 'seat.decideMine'].includes(name) ? { circulation } : {}),
    ...(name.startsWith('draft.') ? { change } : {}),
    ...(['record.view', 'record.describe'].includes(name) ? { record } : {}),
    ...inputs()[name],
  });

  it('are asked by every operation: nobody, a stranger, and another organization get nowhere they do not belong', async () => {
    const open = new Set([
      'desk.view',
      'desk.tasks',
      'desk.find',
      // What it shows and touches is what the caller controls; chase.test.ts shows that nobody else gets anything.
      'desk.late',
      'desk.chase',
      'desk.load',
      // What is usual here, without anybody's own figures.
      'forecast.usual',
      // One's own, and nobody else's.
      'told.list',
      'told.putAway',
      'told.preferences',
      'told.prefer',
      'session.me',
      'session.end',
      // One's own: changes nobody else.
      'session.list',
      'feed.view',
      'feed.renew',
      'feed.stop',
      'session.endOthers',
      'session.changePassword',
      'session.describe',
      // Only draws what it is given.
      'letters.mark',
      'people.list',
      'organization.view',
      'units.people',
      'people.named',
      'people.find',
      'people.addOutside',
      // What they answer and touch is what the caller sees and controls; lists.test.ts shows that others get nothing.
      'people.held',
      'people.reassignAll',
      'register.list',
      'register.types',
      'record.view',
      'record.create',
      'circulation.list',
      // One's own.
      'filters.view',
      'filters.keep',
      // Each circulation is asked about by itself; chase.test.ts shows that others do nothing.
      'desk.many',
      'desk.sendQuick',
    ]);
    let walked = 0;
    for (const [name, operation] of w.registry) {
      walked += 1;
      if (operation.who === 'anyone') {
        expect(operation.open.length, `${name} says why it needs no right`).toBeGreaterThan(20);
        continue;
      }
      expect(typeof operation.claim, name).toBe('function');
      const nobody = await w.answer('somebody unknown', name, inputFor(name));
      expect(nobody.ok ? name : nobody.refusal.code, name).toBe(
        operation.who === 'link' ? 'link-unknown' : 'signed-out',
      );
      if (operation.who === 'link') {
        const forged = await w.throughLink(`http://x/s/${'A'.repeat(38)}.${'b'.repeat(32)}`, name, inputFor(name));
        expect(forged.ok ? name : forged.refusal.code, name).toBe('link-unknown');
        continue;
      }
      if (open.has(name)) continue;
      // Thea administers but has nothing to do with this circulation; Benedikt is a plain member.
      // What concerns the whole organization is an administrator's.
      const whole = [
        'people',
        'types',
        'steps',
        'organization',
        'units',
        'groups',
        'roles',
        'calendars',
        'rules',
        'absences',
      ].includes(name.split('.')[0] ?? '');
      for (const stranger of whole ? ['benedikt'] : ['benedikt', 'thea']) {
        const answer = await w.answer(stranger, name, inputFor(name));
        expect(answer.ok ? `${name} let ${stranger} in` : [403, 404].includes(answer.status), name).toBe(true);
      }
      const foreign = await w.answer('ines@neighbours', name, inputFor(name));
      if (!whole) expect(foreign.ok ? `${name} let the neighbours in` : foreign.status, name).toBe(404);
    }
    expect(walked).toBeGreaterThan(45);
  });

  it('of a list are those of each thing in it, in SQL as in the core', async () => {
    const rows = await w.inOrganization(
      organization,
      (tx) => tx.sql<{ stream: string; person: string }[]>`
      select stream, person from involvement where organization = ${organization}`,
    );
    for (const person of ['ines', 'rufus', 'yuki', 'oskar', 'benedikt', 'thea']) {
      const listed = (await w.ask(person, 'circulation.list', { state: 'all' })).rows.map((row) => row.id);
      const roles = person === 'ines' ? ['controller' as const] : person === 'thea' ? ['administrator' as const] : [];
      const actor: Actor = { kind: 'member', person, roles };
      const involved = rows.filter((row) => row.stream === `circulation:${circulation}`).map((row) => row.person);
      expect(listed.includes(circulation), person).toBe(
        covers(visibilityOf(actor, 'circulation.read'), { involved, leads: [] }),
      );
      const opened = await w.answer(person, 'circulation.view', { circulation });
      expect(opened.ok, person).toBe(listed.includes(circulation));
    }
  });

  it('hold in the database itself: the application’s role sees one organization and cannot step out of it', async () => {
    for (const role of ['avenda_app', 'avenda_worker'] as const) {
      const sql = postgres(urlFor(process.env.DATABASE_URL ?? '', inject('secret'), role), { max: 1 });
      const [flags] =
        await sql`select rolsuper, rolbypassrls, rolcreaterole, rolcreatedb from pg_roles where rolname = ${role}`;
      expect(Object.values(flags ?? {})).toEqual([false, false, false, false]);
      // Without an organization set there is nothing.
      expect((await sql`select count(*)::int as n from event`)[0]?.n).toBe(0);
      await sql.begin(async (tx) => {
        await tx`select set_config('avenda.organization', ${neighbours}, true)`;
        expect((await tx`select count(*)::int as n from event`)[0]?.n).toBe(0);
        expect((await tx`select count(*)::int as n from person where organization = ${organization}`)[0]?.n).toBe(0);
        expect((await tx`select count(*)::int as n from person`)[0]?.n).toBe(1);
      });
      // After a transaction the setting is empty, not left behind.
      expect((await sql`select count(*)::int as n from person`)[0]?.n).toBe(0);
      const refused = async (what: string, run: (tx: postgres.TransactionSql) => Promise<unknown>) =>
        expect(
          sql.begin(async (tx) => {
            await tx`select set_config('avenda.organization', ${neighbours}, true)`;
            await run(tx);
          }),
          what,
        ).rejects.toThrow();
      await refused('insert elsewhere', (tx) => tx`insert into counter values (${organization}, 'x', 1)`);
      await refused('change an event', (tx) => tx`update event set data = '{}'`);
      await refused('remove an event', (tx) => tx`delete from event`);
      await refused('turn security off', (tx) => tx`alter table event disable row level security`);
      await refused('become the owner', (tx) => tx`set role avenda_owner`);
      await refused('set row_security off', async (tx) => {
        await tx`set row_security = off`;
        await tx`select * from event`;
      });
      await refused('change the mode', (tx) => tx`update installation set mode = 'real'`);
      await sql.end();
    }
  });
});

describe('commands', () => {
  it('are applied once per id, and refused with other content under the same id', async () => {
    const id = randomUUID();
    const body = { circulation, comment: 'once', file: draft, note: 'Only once' };
    const first = await w.answer('yuki', 'circulation.comment', body, id);
    const again = await w.answer('yuki', 'circulation.comment', body, id);
    expect([first.ok, again.ok]).toEqual([true, true]);
    const other = await w.answer('yuki', 'circulation.comment', { ...body, note: 'Something else' }, id);
    expect(other.ok ? 'ok' : other.refusal.code).toBe('command-reused');
    const view = await w.ask('ines', 'circulation.view', { circulation });
    expect(view.comments.filter((comment) => comment.id === 'once').length).toBe(1);
  });

  it('of two people at once both count or one is refused, never half of one; sixty at once all count, in a whole chain', async () => {
    await w.ask('ines', 'circulation.addSecondHolder', {
      circulation,
      seat: (await seatOf('yuki')).seat,
      person: 'benedikt',
    });
    const seat = await seatOf('yuki');
    const [one, two] = await Promise.all(
      ['yuki', 'benedikt'].map((person) => w.answer(person, 'seat.decideMine', { ...seat, outcome: 'done' })),
    );
    const answers = [one, two].map((answer) => (answer?.ok ? 'ok' : answer?.refusal.sentence));
    expect(answers.filter((answer) => answer === 'ok').length).toBe(1);
    expect(answers.find((answer) => answer !== 'ok')).toMatch(
      /^Already decided by (Yuki Arden|Benedikt Rowe), with “done”\.$/,
    );
    const comments = await Promise.all(
      Array.from({ length: 60 }, (_, i) =>
        w.answer('petra', 'circulation.comment', {
          circulation,
          comment: `many${i}`,
          file: draft,
          note: `${i}`,
        }),
      ),
    );
    expect(comments.filter((answer) => !answer.ok)).toEqual([]);
    const { linksOf } = await import('@/server/events/streams');
    const links = await w.inOrganization(organization, (tx) => linksOf(tx, `circulation:${circulation}`));
    expect(checkChain(links).whole).toBe(true);
    expect(links.filter((link) => link.type === 'comment.made').length).toBe(61);
  });

  it('show a tampered event at its place', async () => {
    const { linksOf } = await import('@/server/events/streams');
    const admin = postgres(process.env.DATABASE_URL ?? '', { max: 1 });
    await admin.begin(async (tx) => {
      await tx`select set_config('avenda.organization', ${organization}, true)`;
      await tx`update event set data = replace(data, 'rufus', 'petra') where stream = ${`circulation:${circulation}`} and sequence = 1`;
    });
    const check = checkChain(await w.inOrganization(organization, (tx) => linksOf(tx, `circulation:${circulation}`)));
    expect(check).toEqual({ whole: false, sequence: 1, why: 'hash' });
    await admin.begin(async (tx) => {
      await tx`select set_config('avenda.organization', ${organization}, true)`;
      await tx`update event set data = replace(data, '"author":"petra"', '"author":"rufus"') where stream = ${`circulation:${circulation}`} and sequence = 1`;
    });
    await admin.end();
    expect(
      checkChain(await w.inOrganization(organization, (tx) => linksOf(tx, `circulation:${circulation}`))).whole,
    ).toBe(true);
  });
});

describe('bad input', () => {
  const cases: [string, string, () => object, string][] = [
    ['an unknown id', 'circulation.view', () => ({ circulation: randomUUID() }), 'not-found'],
    ['an id that is none', 'circulation.view', () => ({ circulation: "x'; drop table event" }), 'bad-input'],
    ['a missing value', 'record.create', () => ({ documentType: 'PRO', owner: 'rufus' }), 'bad-input'],
    [
      'an over-long value',
      'record.create',
      () => ({ title: 'x'.repeat(201), documentType: 'PRO', owner: 'rufus' }),
      'bad-input',
    ],
    ['an unknown kind', 'record.create', () => ({ title: 'x', documentType: 'ZZZ', owner: 'rufus' }), 'unknown-type'],
    [
      'an unknown person',
      'record.create',
      () => ({ title: 'x', documentType: 'PRO', owner: 'nobody' }),
      'unknown-person',
    ],
    [
      'an outside owner',
      'record.create',
      () => ({ title: 'x', documentType: 'PRO', owner: 'jarek' }),
      'unknown-person',
    ],
    [
      'a value too many',
      'record.create',
      () => ({ title: 'x', documentType: 'PRO', owner: 'rufus', admin: true }),
      'bad-input',
    ],
    [
      'a file that is not here',
      'desk.sendQuick',
      () => ({ file: 'c'.repeat(64), name: 'x.pdf', title: 'x', people: [{ kind: 'person', person: 'yuki' }] }),
      'file-unknown',
    ],
    [
      'a route too deep',
      'circulation.plan',
      () => ({ circulation, route: JSON.parse(`${'{"kind":"series","id":"a","parts":['.repeat(9)}${']}'.repeat(9)}`) }),
      'bad-input',
    ],
    ['a time in the past', 'circulation.extend', () => ({ circulation, seat: 'x', due: 5 }), 'no-such-seat'],
  ];
  for (const [what, name, input, code] of cases)
    it(`${what} gets a sentence and the right code`, async () => {
      const answer = await w.answer('ines', name, input());
      if (answer.ok) throw new Error(`${name} took it`);
      expect(answer.refusal.code).toBe(code);
      expect(answer.status).toBeGreaterThanOrEqual(400);
      expect(answer.status).toBeLessThan(500);
      expect(answer.refusal.sentence).toMatch(/^[A-Z“].*\.$/);
      expect(JSON.stringify(answer)).not.toMatch(/\bat .*:\d+:\d+|node_modules|postgres/i);
    });
});

describe('a timer', () => {
  it('misses a seat when its time has come, tells the controller once, and does nothing twice', async () => {
    await w.ask('ines', 'circulation.extend', {
      circulation,
      seat: (await seatOf('petra')).seat,
      due: null,
      closes: Date.now() + 3_600_000,
    });
    await w.work();
    const before = w.mails.length;
    await w.forward(2 * 3_600_000);
    await w.work();
    await w.work();
    const told = w.mails.slice(before).filter((mail) => mail.subject.startsWith('Time missed'));
    expect(told.map(w.toOf)).toEqual(['ines']);
    const view = await w.ask('ines', 'circulation.view', { circulation });
    expect(view.seats.find((seat) => seat.holder === 'petra')?.status).toBe('missed');
    expect(view.trail.filter((event) => event.type === 'seat.missed').length).toBe(1);
    const desk = await w.ask('ines', 'desk.tasks', {});
    expect(desk.rows.map((task) => task.doing)).toContain('resolveStop');
  });
});

describe('read tables', () => {
  it('are the same when rebuilt from the events', async () => {
    const { rebuild } = await import('@/server/events/rebuild');
    const tables = ['circulation', 'task', 'involvement', 'timer', 'register', 'revision'] as const;
    const keep = () =>
      w.inOrganization(organization, async (tx) =>
        Promise.all(
          tables.map(async (table) =>
            (
              await tx.sql`select row_to_json(t)::text as row from ${tx.sql(table)} t where organization = ${organization} order by 1`
            ).map((entry) => entry.row as string),
          ),
        ),
      );
    const kept = await keep();
    expect(kept[0]?.length).toBeGreaterThan(0);
    expect(kept[1]?.length).toBeGreaterThan(0);
    const streams = await w.inOrganization(organization, (tx) => rebuild(tx));
    expect(streams).toBeGreaterThan(1);
    expect(await keep()).toEqual(kept);
  });
});
