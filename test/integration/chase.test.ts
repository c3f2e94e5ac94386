import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freshSeat } from '@/core/route/route';
import { inSeries, stage, type World, world } from './world';

const hour = 3_600_000;
let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const view = (circulation: string) => w.ask('ines', 'circulation.view', { circulation });
async function sent(title: string, people: readonly string[], closes?: number) {
  const due = (await w.now()) + hour;
  const route = inSeries(stage('review', people, { due, ...(closes ? { closes: due + closes } : {}) }));
  return (await w.sent(route, { title })).circulation;
}

describe('load', () => {
  it('is told by kinds of work to whoever sees it, and of a person only to them, and by rule to whoever leads their unit', async () => {
    await sent('Loaded', ['oskar', 'yuki']);
    const of = async (person: string) => w.ask(person, 'desk.load');
    expect((await of('oskar')).people).toMatchObject([{ person: 'oskar', open: 1, late: 0 }]);
    expect((await of('ines')).people).toEqual([]);
    expect((await of('ines')).kinds).toMatchObject([{ verb: 'review', documentType: 'PRO', open: 2, late: 0 }]);
    expect((await of('benedikt')).kinds).toEqual([]);
    await w.ask('thea', 'units.save', { id: 'ops', name: 'Operations', lead: 'benedikt', deputy: null });
    await w.ask('thea', 'people.place', { person: 'oskar', unit: 'ops', calendar: null });
    expect((await of('benedikt')).people).toEqual([]);
    await w.ask('thea', 'rules.set', { rule: 'leadsSteer', on: true });
    expect((await of('benedikt')).people.map(({ person }) => person)).toEqual(['oskar']);
    await w.ask('thea', 'rules.set', { rule: 'leadsSteer', on: false });
    const { rows } = await w.ask('ines', 'circulation.list');
    for (const { id } of rows) await w.ask('ines', 'circulation.withdraw', { circulation: id, reason: 'over' });
  });
});

describe('chasing by person', () => {
  it('lists who is late over all circulations with the fitting act, and does what was chosen with one message each', async () => {
    await w.ask('thea', 'units.save', { id: 'safety', name: 'Safety', lead: 'petra', deputy: 'yuki' });
    await w.ask('thea', 'people.place', { person: 'petra', unit: 'safety', calendar: null });
    const first = await sent('First', ['oskar'], 5 * hour);
    const second = await sent('Second', ['oskar']);
    const third = await sent('Third', ['petra']);
    const fourth = await sent('Fourth', ['oskar', 'yuki']);
    const now = await w.now();
    await w.ask('petra', 'absences.save', {
      id: randomUUID(),
      person: 'petra',
      from: now,
      to: now + 90 * hour,
      covers: [],
    });
    await w.work();
    expect(await w.ask('ines', 'desk.late')).toEqual([]);
    await w.forward(2 * hour);
    const rows = await w.ask('ines', 'desk.late');
    const of = (circulation: string, person: string) =>
      rows.find((row) => row.circulation === circulation && row.person === person);
    expect(of(first, 'oskar')?.acts[0]).toBe('remind');
    expect(of(third, 'petra')).toMatchObject({ giveTo: 'yuki', away: { covered: false } });
    expect(of(third, 'petra')?.acts[0]).toBe('reassign');
    expect(rows).toHaveLength(5);
    // Nobody else has anything to chase, and nobody chases what another one controls.
    expect(await w.ask('rufus', 'desk.late')).toEqual([]);
    const on = (circulation: string, person: string) => ({ circulation, seat: of(circulation, person)?.seat ?? '' });
    const due = now + 50 * hour;
    const acts = [
      { ...on(first, 'oskar'), act: 'extend', due },
      { ...on(second, 'oskar'), act: 'remind' },
      { ...on(third, 'petra'), act: 'reassign', due, to: { kind: 'person', person: 'yuki' } },
      { ...on(fourth, 'oskar'), act: 'remind' },
    ] as const;
    const strange = await w.ask('rufus', 'desk.chase', { acts });
    expect(strange.map(({ refused }) => refused)).toEqual(
      Array(4).fill('There is nothing here, or it is not yours to see.'),
    );
    // Oskar responds to one of them meanwhile: that row says so, and the others are done.
    const seat = (await view(fourth)).seats.find(({ holder }) => holder === 'oskar');
    const { id = '', epoch = 0, scope } = seat ?? {};
    await w.ask('oskar', 'seat.decideMine', {
      circulation: fourth,
      seat: id,
      epoch,
      scope: scope ?? '',
      outcome: 'done',
      note: null,
    });
    const mails = w.mails.length;
    const done = await w.ask('ines', 'desk.chase', { acts });
    expect(done.map(({ refused }) => refused === null)).toEqual([true, true, true, false]);
    await w.work();
    const sentNow = w.mails.slice(mails).map((mail) => `${w.toOf(mail)}: ${mail.subject}`);
    expect(sentNow.filter((line) => line.startsWith('oskar'))).toHaveLength(1);
    expect(w.mails.slice(mails).find((mail) => w.toOf(mail) === 'oskar')?.text).toMatch(/First[\s\S]*Second/);
    expect(sentNow.filter((line) => line.startsWith('yuki'))).toEqual(['yuki: Please review Third']);
    // A closing time that lies behind the new due time stays; one before it moves with it.
    expect((await view(first)).seats[0]).toMatchObject({ due: now + 50 * hour, closes: now + 50 * hour });
    expect((await view(third)).seats[0]?.holder).toBe('yuki');
    expect((await w.ask('ines', 'desk.late')).find(({ circulation }) => circulation === second)?.acts).not.toContain(
      'remind',
    );
  });
});

describe('a late task of a group', () => {
  it('stands under the group until somebody takes it, and all of its members are reminded', async () => {
    await w.ask('thea', 'groups.save', { id: 'rope', name: 'Rope inspectors', members: ['oskar', 'yuki'] });
    const seat = freshSeat('s-rope', { kind: 'group', group: 'rope', members: 'any' });
    const due = (await w.now()) + hour;
    const route = inSeries({ ...stage('review', [], { due }), seats: [seat] });
    const { circulation } = await w.sent(route, { title: 'For a group' });
    await w.forward(2 * hour);
    await w.work();
    const late = async () => (await w.ask('ines', 'desk.late')).filter((row) => row.circulation === circulation);
    expect(await late()).toMatchObject([{ person: 'group:rope', giveTo: null, away: null }]);
    const mails = w.mails.length;
    await w.ask('ines', 'desk.chase', { acts: [{ circulation, seat: seat.id, act: 'remind' }] });
    await w.work();
    expect(w.mails.slice(mails).map(w.toOf).sort()).toEqual(['oskar', 'yuki']);
    await w.ask('oskar', 'circulation.take', { circulation, seat: seat.id, epoch: 1 });
    expect((await late()).map(({ person }) => person)).toEqual(['oskar']);
    // One who is not told whom to give it to, or until when, is no act.
    for (const act of [{ act: 'extend' }, { act: 'reassign', due: due + 9 * hour }])
      expect(await w.refused('ines', 'desk.chase', { acts: [{ circulation, seat: seat.id, ...act } as never] })).toBe(
        'bad-input',
      );
  });
});

describe('the list of circulations', () => {
  it('is narrowed by whom it waits for, type and lateness, in filters that one keeps', async () => {
    const one = await sent('Narrow one', ['yuki']);
    const two = await sent('Narrow two', ['oskar']);
    const ids = async (more: object) =>
      (await w.ask('ines', 'circulation.list', { filter: 'narrow', ...more })).rows.map(({ id }) => id);
    expect((await ids({})).sort()).toEqual([one, two].sort());
    expect(await ids({ holder: 'yuki' })).toEqual([one]);
    expect(await ids({ documentType: 'WI' })).toEqual([]);
    expect(await ids({ documentType: 'PRO', holder: 'oskar' })).toEqual([two]);
    expect(await ids({ late: true })).toEqual([]);
    const kept = { name: 'Yuki', state: 'live', filter: '', holder: 'yuki', documentType: null, late: true } as const;
    await w.ask('ines', 'filters.keep', { filters: [kept] });
    expect(await w.ask('ines', 'filters.view')).toEqual([kept]);
    expect(await w.ask('yuki', 'filters.view')).toEqual([]);
    for (const circulation of [one, two]) await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'over' });
  });

  it('holds what one noted of each for oneself, and the Desk brings it back when one wanted to come back to it', async () => {
    const circulation = await sent('Noted', ['yuki']);
    const own = async (person: string) => {
      const { rows } = await w.ask(person, 'circulation.list', { filter: 'noted' });
      return rows.map(({ note, back }) => [note, back]);
    };
    const back = (await w.now()) + 24 * hour;
    await w.ask('ines', 'notes.keep', { circulation, text: '  Ask Petra for the old values ', back });
    await w.ask('yuki', 'notes.keep', { circulation, text: 'Mine', back: null });
    expect(await w.ask('ines', 'notes.view', { circulation })).toEqual({ text: 'Ask Petra for the old values', back });
    expect(await own('ines')).toEqual([['Ask Petra for the old values', back]]);
    expect(await own('yuki')).toEqual([['Mine', null]]);
    expect(await w.refused('thea', 'notes.keep', { circulation, text: 'x', back: null })).toBe('not-found');
    expect(await w.ask('rufus', 'notes.view', { circulation })).toEqual({ text: '', back: null });
    const brought = async (person: string) => (await w.ask(person, 'desk.view')).back;
    expect(await brought('ines')).toEqual([]);
    await w.forward(24 * hour);
    expect(await brought('ines')).toMatchObject([{ circulation, text: 'Ask Petra for the old values', back }]);
    // Who may see it no longer is brought back to nothing.
    await w.ask('yuki', 'notes.keep', { circulation, text: 'Mine', back });
    expect(await brought('yuki')).toHaveLength(1);
    const [seat] = (await view(circulation)).seats;
    await w.ask('ines', 'circulation.reassign', {
      circulation,
      seat: seat?.id ?? '',
      to: { kind: 'person', person: 'oskar' },
      due: null,
      closes: null,
      note: null,
    });
    expect(await brought('yuki')).toEqual([]);
    await w.ask('ines', 'notes.keep', { circulation, text: '', back: null });
    expect(await own('ines')).toEqual([['', null]]);
    expect(await brought('ines')).toEqual([]);
    await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'over' });
  });

  it('does the same to many at once, each by itself, with one message to one person', async () => {
    const one = await sent('Many one', ['yuki', 'oskar']);
    const two = await sent('Many two', ['yuki']);
    const three = await sent('Many three', ['oskar']);
    const all = [one, two, three];
    await w.ask('ines', 'circulation.pause', { circulation: three, note: null });
    await w.work();
    const mails = w.mails.length;
    const reminded = await w.ask('ines', 'desk.many', { circulations: all, act: { kind: 'remind' } });
    expect(reminded.map(({ done }) => done)).toEqual([2, 1, 0]);
    expect(reminded[2]?.refused).toMatch(/nothing to do/);
    await w.work();
    const told = w.mails.slice(mails).map((mail) => w.toOf(mail));
    expect(told.sort()).toEqual(['oskar', 'yuki']);
    const due = (await w.now()) + 48 * hour;
    const extended = await w.ask('ines', 'desk.many', { circulations: [one, two], act: { kind: 'extend', due } });
    expect(extended.map(({ done }) => done)).toEqual([2, 1]);
    expect((await view(one)).seats.map((seat) => seat.due)).toEqual([due, due]);
    // A later due is not drawn nearer.
    const nearer = { kind: 'extend', due: due - hour } as const;
    const same = await w.ask('ines', 'desk.many', { circulations: [one], act: nearer });
    expect(same[0]?.refused).toMatch(/nothing to do/);
    const given = await w.ask('ines', 'desk.many', {
      circulations: [one, two],
      act: { kind: 'reassign', from: 'yuki', to: 'petra' },
    });
    expect(given.map(({ done, refused }) => [done, refused])).toEqual([
      [1, null],
      [1, null],
    ]);
    expect((await view(one)).seats.map((seat) => [seat.holder, seat.due])).toEqual([
      ['petra', due],
      ['oskar', due],
    ]);
    // Who had it is told so when they come back to it, and a stranger nothing.
    const { id = '', epoch = 0, scope } = (await view(one)).seats[0] ?? {};
    const old = { circulation: one, seat: id, epoch, scope: scope ?? '', outcome: 'done', note: null } as const;
    expect(await w.refused('yuki', 'seat.decideMine', old)).toBe('no-longer-yours');
    expect(await w.refused('yuki', 'circulation.view', { circulation: one })).toBe('no-longer-yours');
    expect(await w.refused('benedikt', 'circulation.view', { circulation: one })).toBe('not-found');
    // What is late already gets time with whoever gets it.
    await w.forward(72 * hour);
    const late = await w.ask('ines', 'desk.many', {
      circulations: [two],
      act: { kind: 'reassign', from: 'petra', to: 'yuki' },
    });
    expect(late).toEqual([{ circulation: two, done: 1, refused: null }]);
    const [passed] = (await view(two)).seats;
    expect(passed?.holder).toBe('yuki');
    expect(passed?.due).toBeGreaterThan((await w.now()) + 24 * hour);
    // Nobody else gets anywhere.
    const stranger = await w.ask('petra', 'desk.many', { circulations: all, act: { kind: 'remind' } });
    expect(stranger.every(({ done, refused }) => done === 0 && refused !== null)).toBe(true);
    const handed = await w.ask('ines', 'desk.many', {
      circulations: all,
      act: { kind: 'handControl', to: 'benedikt' },
    });
    expect(handed.map(({ done }) => done)).toEqual([1, 1, 1]);
    expect((await view(two)).controller).toBe('benedikt');
    for (const circulation of all) await w.ask('benedikt', 'circulation.withdraw', { circulation, reason: 'over' });
  });
});
