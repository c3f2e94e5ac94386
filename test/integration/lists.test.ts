import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { neighbours, organization, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const desk = (person: string) => w.ask(person, 'desk.view');
const tasks = async (person: string) => (await w.ask(person, 'desk.tasks', {})).rows;
async function quick(from: string, title: string, people: readonly string[], due: number | null = null) {
  const file = await w.pdf(title, 1, from);
  return w.ask(from, 'desk.sendQuick', {
    file: file.hash,
    name: 'x.pdf',
    title,
    verb: 'review',
    due,
    people: people.map((person) => ({ kind: 'person' as const, person })),
  });
}

describe('numbers', () => {
  it('of records made at once are all different, without a gap, and each organization counts for itself', async () => {
    const made = await Promise.all(
      Array.from({ length: 15 }, (_, i) =>
        w.ask(i % 2 ? 'ines' : 'petra', 'record.create', {
          title: `Made at once ${i}`,
          documentType: 'PRO',
          owner: 'rufus',
        }),
      ),
    );
    expect(made.map(({ number }) => number).sort()).toEqual(
      Array.from({ length: 15 }, (_, i) => `MR-PRO-${String(i + 1).padStart(3, '0')}`),
    );
    const theirs = await w.ask('ines@neighbours', 'record.create', {
      title: 'Next door',
      documentType: 'PRO',
      owner: 'ines',
    });
    expect(theirs.number).toBe('NB-PRO-001');
    const seen = await w.ask('ines@neighbours', 'register.list');
    expect(seen.rows.map(({ number }) => number)).toEqual(['NB-PRO-001']);
  });

  it('of circulations sent at once run on without a repeat', async () => {
    const sent = await Promise.all(Array.from({ length: 8 }, (_, i) => quick('petra', `Sent at once ${i}`, ['yuki'])));
    const views = await Promise.all(sent.map(({ circulation }) => w.ask('petra', 'circulation.view', { circulation })));
    const counted = views.map((view) => Number(view.number.slice(2))).sort((a, b) => a - b);
    expect(counted).toEqual(Array.from({ length: 8 }, (_, i) => (counted[0] as number) + i));
  });
});

describe('a record', () => {
  it('is described by its owner and by controllers; others may read it', async () => {
    const { record } = await w.ask('petra', 'record.create', {
      title: 'Owned by Rufus',
      documentType: 'WI',
      owner: 'rufus',
    });
    const next = { record, title: 'Owned by Yuki now', documentType: 'WI', owner: 'yuki' };
    expect(await w.refused('petra', 'record.describe', next)).toBe('not-allowed');
    await w.ask('rufus', 'record.describe', next);
    // Rufus has given it away.
    expect(await w.refused('rufus', 'record.describe', next)).toBe('not-allowed');
    await w.ask('ines', 'record.describe', { ...next, title: 'Put in order by the controller' });
    expect(await w.ask('petra', 'record.view', { record })).toMatchObject({
      title: 'Put in order by the controller',
      owner: 'yuki',
      number: expect.stringMatching(/^MR-WI-\d{3}$/),
    });
    expect(await w.refused('ines', 'record.describe', { ...next, documentType: 'ZZZ' })).toBe('unknown-type');
    expect(await w.refused('ines', 'record.describe', { ...next, owner: 'nobody' })).toBe('unknown-person');
    expect(await w.refused('ines', 'record.describe', { ...next, record: 'none' })).toBe('not-found');
  });

  it('has the details that its type declares, and keeps no others', async () => {
    const type = (await w.ask('thea', 'register.types', {})).find(({ code }) => code === 'WI');
    if (!type) throw new Error('no such type');
    const { code, usual: _, ...rest } = type;
    const detail = { choices: [], currency: '', least: null, most: null, standard: null, needed: false };
    const details = [
      { ...detail, id: 'place', name: 'Place', kind: 'choice' as const, choices: ['Summit', 'Valley'], needed: true },
      { ...detail, id: 'until', name: 'Valid until', kind: 'date' as const },
    ];
    await w.ask('thea', 'types.describe', { ...rest, facts: [...rest.facts], details, type: code, added: false });
    const record = { title: 'With details', documentType: 'WI', owner: 'rufus' };
    expect(await w.refused('ines', 'record.create', record)).toBe('detail-missing');
    const place = { kind: 'choice' as const, text: 'Summit' };
    const unfit = { ...record, details: { place: { ...place, text: 'Nowhere' } } };
    expect(await w.refused('ines', 'record.create', unfit)).toBe('fact-unfit');
    const made = await w.ask('ines', 'record.create', { ...record, details: { place, other: place, until: null } });
    const shown = async () => (await w.ask('petra', 'record.view', { record: made.record })).details;
    expect(await shown()).toEqual({ place });
    const until = { kind: 'date' as const, day: '2027-01-31' };
    await w.ask('rufus', 'record.describe', { ...record, record: made.record, details: { place, until } });
    expect(await shown()).toEqual({ place, until });
    // A type that declares less afterwards refuses nothing that stays as it is.
    await w.ask('thea', 'types.describe', { ...rest, facts: [...rest.facts], type: code, added: false });
    await w.ask('rufus', 'record.describe', {
      ...record,
      title: 'Mended',
      record: made.record,
      details: { place, until },
    });
    expect(await shown()).toEqual({ place, until });
    await w.ask('rufus', 'record.describe', { ...record, record: made.record, details: {} });
    expect(await shown()).toEqual({});
  });

  it('that was sent quickly waits on its owner’s Desk until it is complete', async () => {
    await quick('yuki', 'To be completed', ['oskar']);
    const found = (await desk('yuki')).incomplete.find((row) => row.title === 'To be completed');
    expect(found).toBeDefined();
    await w.ask('yuki', 'record.describe', {
      record: found?.record ?? '',
      title: 'Completed',
      documentType: 'BRF',
      owner: 'yuki',
    });
    expect((await desk('yuki')).incomplete.map((row) => row.title)).not.toContain('Completed');
  });

  it('says that something is in progress to everybody, but what it is only to those it concerns', async () => {
    const { circulation } = await quick('petra', 'Confidential matter', ['oskar']);
    const { record } = (await w.ask('petra', 'circulation.view', { circulation })).record.id
      ? { record: (await w.ask('petra', 'circulation.view', { circulation })).record.id }
      : { record: '' };
    const as = async (person: string) => (await w.ask(person, 'record.view', { record })).circulations;
    for (const person of ['petra', 'oskar', 'ines'])
      expect(await as(person), person).toMatchObject([{ id: circulation, mine: true }]);
    for (const person of ['yuki', 'thea', 'benedikt'])
      expect(await as(person), person).toEqual([
        { id: null, number: expect.any(String), phase: 'running', mine: false },
      ]);
  });

  it('has one change in progress at a time', async () => {
    const { record } = await w.ask('ines', 'record.create', {
      title: 'One at a time',
      documentType: 'PRO',
      owner: 'rufus',
    });
    const start = () => w.answer('ines', 'change.start', { records: [record], reason: 'Now', author: 'rufus' });
    const answers = await Promise.all([start(), start(), start()]);
    expect(answers.map((answer) => (answer.ok ? 'ok' : answer.refusal.code)).sort()).toEqual([
      'in-work-already',
      'in-work-already',
      'ok',
    ]);
    expect(await w.refused('petra', 'change.start', { records: [record], reason: 'x', author: 'rufus' })).toBe(
      'not-allowed',
    );
  });
});

describe('the Desk', () => {
  it('shows each what they are asked, soonest due first, and to the sender for whom it waits', async () => {
    const day = 86_400_000;
    const now = Date.now();
    await quick('benedikt', 'Without a time', ['thea']);
    await quick('benedikt', 'In a week', ['thea'], now + 7 * day);
    const soon = await quick('benedikt', 'Tomorrow', ['thea', 'petra'], now + day);
    const mine = await tasks('thea');
    expect(mine.map((task) => task.title)).toEqual(['Tomorrow', 'In a week', 'Without a time']);
    expect(mine.every((task) => task.doing === 'review')).toBe(true);
    const waits = (await desk('benedikt')).waits;
    expect(
      waits
        .filter((row) => row.title === 'Tomorrow')
        .map((row) => row.person)
        .sort(),
    ).toEqual(['petra', 'thea']);
    // Nobody else is told for whom it waits.
    expect((await desk('petra')).waits.map((row) => row.title)).not.toContain('Tomorrow');
    const view = await w.ask('thea', 'circulation.view', { circulation: soon.circulation });
    const seat = view.seats.find((candidate) => candidate.holder === 'thea');
    if (!seat) throw new Error('no seat');
    await w.ask('thea', 'seat.decideMine', {
      circulation: soon.circulation,
      seat: seat.id,
      epoch: seat.epoch,
      scope: seat.scope ?? '',
      outcome: 'done',
    });
    expect((await tasks('thea')).map((task) => task.title)).toEqual(['In a week', 'Without a time']);
    expect((await desk('benedikt')).waits.filter((row) => row.title === 'Tomorrow').map((row) => row.person)).toEqual([
      'petra',
    ]);
  });
});

describe('who is late', () => {
  it('stands on the controller’s Desk once a response, is found by state and by name, and is reminded in one act', async () => {
    const day = 86_400_000;
    const { circulation } = await quick('benedikt', 'Grease of the sheaves', ['yuki', 'rufus'], (await w.now()) + day);
    const other = await quick('benedikt', 'Paint of the sheaves', ['rufus'], (await w.now()) + 9 * day);
    const seat = (await w.ask('benedikt', 'circulation.view', { circulation })).seats[0];
    // A second holder is no response of their own.
    await w.ask('benedikt', 'circulation.addSecondHolder', { circulation, seat: seat?.id ?? '', person: 'petra' });
    const late = async () =>
      (await desk('benedikt')).late
        .filter(({ title }) => title.endsWith('sheaves'))
        .map(({ title, person }) => `${title}: ${person}`)
        .sort();
    expect(await late()).toEqual([]);
    expect(await w.refused('benedikt', 'circulation.remindLate', { circulation })).toBe('nobody-late');
    await w.forward(2 * day);
    expect(await late()).toEqual(['Grease of the sheaves: rufus', 'Grease of the sheaves: yuki']);
    expect((await desk('yuki')).late).toEqual([]);

    const found = async (filter: string) =>
      (await w.ask('benedikt', 'circulation.list', { filter })).rows.map((row) => row.title);
    expect(await found('sheaves')).toEqual(['Grease of the sheaves', 'Paint of the sheaves']);
    expect(await found('sheaves late')).toEqual(['Grease of the sheaves']);
    expect(await found('sheaves stopped')).toEqual([]);
    expect(await found('sheaves yuki')).toEqual(['Grease of the sheaves']);
    expect(await found('rufus paint')).toEqual(['Paint of the sheaves']);

    const answer = await w.ask('benedikt', 'circulation.remindLate', { circulation });
    expect([...answer.reminded].sort()).toEqual(['rufus', 'yuki']);
    expect(await w.refused('benedikt', 'circulation.remindLate', { circulation })).toBe('nobody-late');
    expect(await w.refused('yuki', 'circulation.remindLate', { circulation })).toBe('not-allowed');
    const view = await w.ask('benedikt', 'circulation.view', { circulation });
    expect(view.seats.map((one) => one.reminded.length)).toEqual([1, 1]);

    // An act answers who has it now.
    const open = await w.ask('rufus', 'circulation.view', { circulation: other.circulation });
    const mine = open.seats[0];
    expect(
      await w.ask('rufus', 'seat.decideMine', {
        circulation: other.circulation,
        seat: mine?.id ?? '',
        epoch: mine?.epoch ?? 0,
        scope: mine?.scope ?? '',
        outcome: 'returned',
        note: 'Not this paint',
      }),
    ).toEqual({ phase: 'rework', waitsFor: ['benedikt'] });
    await w.ask('benedikt', 'circulation.withdraw', { circulation, reason: 'done by hand' });
  });
});

describe('what waits for somebody', () => {
  it('is shown to whoever may see it, and given to another in one act where they do not count already', async () => {
    const due = (await w.now()) + 5 * 86_400_000;
    const sent = [
      await quick('benedikt', 'Held alone', ['yuki'], due),
      await quick('benedikt', 'Held without a time', ['yuki']),
      await quick('benedikt', 'Held together', ['yuki', 'rufus']),
    ];
    const titles = async (viewer: string) =>
      (await w.ask(viewer, 'people.held', { person: 'yuki' })).rows
        .filter(({ title }) => title.startsWith('Held'))
        .map(({ title, steers }) => [title, steers]);
    expect((await titles('benedikt')).sort()).toEqual([
      ['Held alone', true],
      ['Held together', true],
      ['Held without a time', true],
    ]);
    // Who has no part in them sees nothing; who only has a part in one cannot give it away.
    expect(await titles('petra')).toEqual([]);
    expect(await titles('rufus')).toEqual([['Held together', false]]);
    // Who manages people sees none of them, but is told how many there are.
    const managed = await w.ask('thea', 'people.held', { person: 'yuki' });
    expect(managed.rows.filter(({ title }) => title.startsWith('Held'))).toEqual([]);
    expect(managed.all).toBeGreaterThanOrEqual(3);
    const give = { from: 'yuki', to: { kind: 'person', person: 'rufus' } } as const;
    expect(await w.refused('rufus', 'people.reassignAll', give)).toBe('nothing-held');
    expect(
      await w.refused('benedikt', 'people.reassignAll', { ...give, to: { kind: 'person', person: 'nobody' } }),
    ).toBe('unknown-person');
    const done = await w.ask('benedikt', 'people.reassignAll', give);
    expect(done).toMatchObject({ left: 1 });
    expect(done.reassigned).toBeGreaterThanOrEqual(2);
    expect(await titles('benedikt')).toEqual([['Held together', true]]);
    const [alone] = (await w.ask('benedikt', 'circulation.view', { circulation: sent[0]?.circulation ?? '' })).seats;
    expect(alone).toMatchObject({ holder: 'rufus', due, status: 'asked' });
    expect(await w.refused('benedikt', 'people.reassignAll', give)).toBe('nothing-held');
  });
});

describe('the list of circulations', () => {
  it('comes in the order of each column over its pages, every circulation once', async () => {
    const day = 86_400_000;
    const now = await w.now();
    const people = ['thea', 'yuki', 'rufus', 'petra'];
    for (let i = 0; i < 56; i += 1)
      await quick(
        'benedikt',
        `Order ${String((i * 37) % 56).padStart(2, '0')}`,
        [people[i % 4] as string],
        i % 3 ? now + (1 + ((i * 11) % 30)) * day : null,
      );
    const names = new Map(
      (await w.ask('benedikt', 'people.list', {})).rows.map(({ id, name }) => [id, name.toLowerCase()]),
    );
    const all = async (order: 'need' | 'number' | 'title' | 'with' | 'due' | 'activity') => {
      const rows = [];
      for (let after: string | null = null; ; ) {
        const page: Awaited<ReturnType<typeof read>> = await read(order, after);
        rows.push(...page.rows);
        if (!page.next) return rows;
        after = page.next;
      }
    };
    const read = (order: 'need' | 'number' | 'title' | 'with' | 'due' | 'activity', after: string | null) =>
      w.ask('benedikt', 'circulation.list', { order, after, state: 'all' });
    type Row = Awaited<ReturnType<typeof read>>['rows'][number];
    const keys: { readonly [order: string]: (row: Row) => readonly (number | string)[] } = {
      need: (row) => [row.rank, row.sort],
      number: (row) => [Number(row.number.slice(2))],
      title: (row) => [row.title.toLowerCase()],
      with: (row) => [row.holders.length === 0 ? 1 : 0, names.get(row.holders[0] ?? '') ?? ''],
      due: (row) => [row.nextDue ?? Number.MAX_SAFE_INTEGER],
      activity: (row) => [-row.last],
    };
    const everything = new Set((await all('need')).map((row) => row.id));
    expect(everything.size).toBeGreaterThan(56);
    for (const order of ['need', 'number', 'title', 'with', 'due', 'activity'] as const) {
      const rows = await all(order);
      expect(rows.length, order).toBe(everything.size);
      expect(new Set(rows.map((row) => row.id)), order).toEqual(everything);
      const seen = rows.map((row) => keys[order]?.(row) ?? []);
      const sorted = seen.slice().sort((a, b) => {
        const at = a.findIndex((key, i) => key !== b[i]);
        return at < 0 ? 0 : (a[at] as number | string) < (b[at] as number | string) ? -1 : 1;
      });
      expect(seen, order).toEqual(sorted);
    }
  });
});

describe('finding', () => {
  const find = (person: string, text: string) => w.ask(person, 'desk.find', { text });

  it('takes signs as they are typed, not as patterns', async () => {
    for (const title of ['100 % of load', 'under_score', 'back\\slash', "it's quoted", 'plain'])
      await w.ask('ines', 'record.create', { title, documentType: 'BRF', owner: 'ines' });
    for (const [text, title] of [
      ['100 %', '100 % of load'],
      ['under_', 'under_score'],
      ['back\\', 'back\\slash'],
      ["it's", "it's quoted"],
      ['PLAIN', 'plain'],
    ] as const)
      expect(
        (await find('petra', text)).records.map((row) => row.title),
        text,
      ).toEqual([title]);
    expect((await find('petra', '%_%')).records).toEqual([]);
  });

  it('shows circulations only to those who may read them', async () => {
    await quick('petra', 'Sought after', ['oskar']);
    for (const person of ['petra', 'oskar', 'ines'])
      expect((await find(person, 'sought')).circulations, person).toHaveLength(1);
    for (const person of ['yuki', 'thea']) expect((await find(person, 'sought')).circulations, person).toEqual([]);
    const elsewhere = await w.ask('ines@neighbours', 'desk.find', { text: 'sought' });
    expect([elsewhere.records, elsewhere.circulations]).toEqual([[], []]);
  });
});

describe('a trail', () => {
  it('cannot be written into another organization’s stream, and its events name the one they belong to', async () => {
    const { linksOf } = await import('@/server/events/streams');
    const { circulation } = await quick('petra', 'Ours alone', ['oskar']);
    const ours = await w.inOrganization(organization, (tx) => linksOf(tx, `circulation:${circulation}`));
    expect(ours.length).toBeGreaterThan(3);
    expect(new Set(ours.map((link) => link.organization))).toEqual(new Set([organization]));
    expect(await w.inOrganization(neighbours, (tx) => linksOf(tx, `circulation:${circulation}`))).toEqual([]);
    await expect(
      w.inOrganization(neighbours, (tx) => tx.sql`insert into event ${tx.sql(ours.slice(-1) as never)}`),
    ).rejects.toThrow(/row-level security/);
  });
});

describe('people', () => {
  it('come in pages, each once, members before outside people, and like-named ones do not hide each other', async () => {
    for (let i = 0; i < 70; i += 1)
      await w.ask('ines', 'people.addOutside', {
        name: i % 2 ? 'Kari Like-Named' : `Guest ${i}`,
        email: `guest-${i}@guests.example`,
        company: 'Guests of the valley',
        zone: 'Europe/Oslo',
      });
    const all = [];
    const sizes = [];
    for (let after: string | null = null, counted: object | null = null; ; ) {
      const page: Awaited<ReturnType<typeof read>> = await read(after);
      counted ??= page.counts;
      all.push(...page.rows);
      sizes.push(page.rows.length);
      after = page.next;
      if (after) continue;
      const members = all.filter((person) => person.kind === 'member').length;
      expect(counted).toEqual({ members, outside: all.length - members });
      break;
    }
    expect(sizes.length).toBeGreaterThan(1);
    expect(new Set(all.map(({ id }) => id)).size).toBe(all.length);
    expect(all.filter(({ name }) => name === 'Kari Like-Named')).toHaveLength(35);
    expect(all.map(({ kind }) => kind)).toEqual(all.map(({ kind }) => kind).sort());
    const found = await w.ask('petra', 'people.list', { filter: 'VALLEY guest-4@' });
    expect(found.rows.map(({ name }) => name)).toEqual(['Guest 4']);
    expect(found.counts).toEqual({ members: 0, outside: 1 });
  });
  const read = (after: string | null) => w.ask('petra', 'people.list', { after });

  it('are found by every word of their name, address, job title or company; who was deactivated is not', async () => {
    const find = async (text: string, who: 'members' | 'anybody') =>
      (await w.ask('petra', 'people.find', { text, who })).map(({ name }) => name);
    expect(await find('valley guest-40@', 'anybody')).toEqual(['Guest 40']);
    expect(await find('valley guest-40@', 'members')).toEqual([]);
    expect(await find('100%', 'anybody')).toEqual([]);
    expect(await find('benedikt', 'members')).toEqual(['Benedikt Rowe']);
    await w.ask('thea', 'people.leave', { person: 'benedikt', left: true });
    expect(await find('benedikt', 'members')).toEqual([]);
    expect((await w.ask('petra', 'people.named', { people: ['benedikt', 'nobody'] })).map(({ name }) => name)).toEqual([
      'Benedikt Rowe',
    ]);
    await w.ask('thea', 'people.leave', { person: 'benedikt', left: false });
  });

  it('of another organization are not named, listed or found', async () => {
    const theirs = await w.ask('ines@neighbours', 'people.list', {});
    expect(theirs.rows.map(({ id }) => id)).not.toContain('petra');
    expect(await w.ask('ines@neighbours', 'people.named', { people: ['petra', 'yuki'] })).toEqual([]);
    expect(await w.ask('ines@neighbours', 'people.find', { text: 'petra', who: 'anybody' })).toEqual([]);
  });
});
