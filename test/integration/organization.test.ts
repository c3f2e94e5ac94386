import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { planSign } from '@/core/circulation/plan/planning';
import { csvOut } from '@/core/formats/csv';
import type { FactType } from '@/core/route/facts';
import { type Assignment, freshSeat, freshStage, type Series, type Stage, usualAllows } from '@/core/route/route';
import type { Outcome, Verb } from '@/core/route/verbs';
import { inSeries, stage, type World, world } from './world';

let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const view = (circulation: string, person = 'ines') => w.ask(person, 'circulation.view', { circulation });
const seatIn = async (circulation: string, id: string) => {
  const seat = (await view(circulation)).seats.find((candidate) => candidate.id === id);
  if (!seat) throw new Error(`no seat ${id}`);
  return { circulation, seat: seat.id, epoch: seat.epoch, scope: seat.scope ?? '' };
};
const decide = async (circulation: string, seat: string, person: string, outcome: Outcome) =>
  w.answer(person, 'seat.decideMine', { ...(await seatIn(circulation, seat)), outcome, note: null });
/** Why sending is refused by the checks; "sent" where it is not. */
const sending = async (circulation: string) => {
  const answer = await w.answer('ines', 'circulation.send', { circulation });
  return answer.ok ? 'sent' : (answer.refusal.facts as { finding?: string }).finding;
};
const desk = async (person: string) => (await w.ask(person, 'desk.tasks', {})).rows.map((row) => row.circulation);

/** A stage of seats that are no people by name. */
function asking(verb: Verb, assignments: readonly Assignment[], more: Partial<Stage> = {}): Stage {
  const id = `s${Math.random().toString(36).slice(2, 10)}`;
  return { ...freshStage(id, verb), seats: assignments.map((one, i) => freshSeat(`${id}-${i}`, one)), ...more };
}

/** A change of a new document, with its draft submitted, being planned. */
async function submitted(documentType = 'PRO', owner = 'rufus') {
  return (await w.submitted({ documentType, owner })).circulation;
}
async function planned(route: Series, more: Partial<{ documentType: string; facts: object; owner: string }> = {}) {
  const circulation = await submitted(more.documentType, more.owner);
  const plan = { circulation, note: null, route, facts: (more.facts ?? {}) as never, basis: null };
  await w.ask('ines', 'circulation.plan', plan);
  return circulation;
}
async function sent(route: Series, more: Parameters<typeof planned>[1] = {}) {
  const circulation = await planned(route, more);
  await w.ask('ines', 'circulation.send', { circulation });
  await w.work();
  return circulation;
}

describe('a unit', () => {
  it('is arranged by administrators, and by its lead and deputy themselves, who cannot make or remove any', async () => {
    const unit = { id: 'ropes', name: 'Ropes and drives', lead: 'petra', deputy: null };
    expect(await w.refused('petra', 'units.save', unit)).toBe('not-allowed');
    await w.ask('thea', 'units.save', unit);
    await w.ask('petra', 'units.save', { ...unit, deputy: 'yuki' });
    await w.ask('yuki', 'units.save', { ...unit, deputy: 'yuki', name: 'Ropes, drives and grips' });
    expect(await w.refused('oskar', 'units.save', { ...unit, lead: 'oskar' })).toBe('not-allowed');
    expect(await w.refused('petra', 'units.save', { ...unit, deputy: 'petra' })).toBe('deputy-is-lead');
    expect(await w.refused('petra', 'units.save', { ...unit, lead: 'jarek' })).toBe('unknown-person');
    expect(await w.refused('petra', 'units.remove', { id: 'ropes' })).toBe('not-allowed');
    expect(await w.refused('thea', 'units.save', { ...unit, id: 'other', name: 'ROPES, DRIVES AND GRIPS' })).toBe(
      'name-taken',
    );
    await w.ask('thea', 'people.place', { person: 'rufus', unit: 'ropes', calendar: null });
    const { units } = await w.ask('oskar', 'organization.view');
    expect(units).toEqual([{ id: 'ropes', name: 'Ropes, drives and grips', lead: 'petra', deputy: 'yuki', people: 1 }]);
  });

  it('has people whom administrators take in, and whose lead says by which calendar they work and lets them go', async () => {
    const week = [[], [], [], [], [], [{ from: 480, to: 720 }], []];
    await w.ask('thea', 'calendars.save', { id: 'crew', name: 'Crew', week, holidays: [], usual: false });
    await w.ask('petra', 'people.place', { person: 'rufus', calendar: 'crew' });
    await w.ask('petra', 'people.place', { person: 'rufus', unit: 'ropes', calendar: 'crew' });
    expect(await w.ask('oskar', 'units.people', { units: ['ropes'] })).toEqual({ ropes: ['rufus'] });
    // Taking in somebody would give a say over what they own.
    expect(await w.refused('petra', 'people.place', { person: 'oskar', unit: 'ropes' })).toBe('not-allowed');
    expect(await w.refused('oskar', 'people.place', { person: 'rufus', unit: null })).toBe('not-allowed');
    await w.ask('petra', 'people.place', { person: 'rufus', unit: null });
    expect(await w.ask('oskar', 'units.people', { units: ['ropes'] })).toEqual({ ropes: [] });
    expect(await w.refused('petra', 'people.place', { person: 'rufus', calendar: null })).toBe('not-allowed');
    await w.ask('thea', 'people.place', { person: 'rufus', unit: 'ropes', calendar: null });
  });

  it('has the documents that are given to it, else those of its people', async () => {
    const { record } = await w.ask('ines', 'record.create', {
      title: 'Whose is it',
      documentType: 'PRO',
      owner: 'rufus',
    });
    const shown = async () => (await w.ask('ines', 'record.view', { record })).unitName;
    const { units } = await w.ask('ines', 'organization.view', {});
    expect(await shown()).toBe(units.find(({ id }) => id === 'ropes')?.name);
    const next = { record, title: 'Whose is it', documentType: 'PRO', owner: 'rufus' };
    await w.ask('thea', 'units.save', { id: 'lent', name: 'Lent out', lead: 'benedikt', deputy: null });
    expect(await w.refused('ines', 'record.describe', { ...next, unit: 'nowhere' })).toBe('unknown-unit');
    await w.ask('ines', 'record.describe', { ...next, unit: 'lent' });
    expect(await shown()).toBe('Lent out');
    const change = await w.ask('ines', 'change.start', { records: [record], reason: 'w', author: 'rufus' });
    const sees = async () => (await w.answer('benedikt', 'circulation.view', { circulation: change.circulation })).ok;
    expect(await sees()).toBe(false);
    await w.ask('thea', 'rules.set', { rule: 'leadsSteer', on: true });
    expect(await sees()).toBe(true);
    expect(await w.refused('thea', 'units.remove', { id: 'lent' })).toBe('unit-has-documents');
    await w.ask('ines', 'record.describe', { ...next, unit: null });
    expect(await sees()).toBe(false);
    await w.ask('thea', 'rules.set', { rule: 'leadsSteer', on: false });
    await w.ask('thea', 'units.remove', { id: 'lent' });
    await w.ask('ines', 'circulation.withdraw', { circulation: change.circulation, reason: 'w' });
  });

  it('lets its lead see and steer the circulations of its documents only by rule, from then on and no longer', async () => {
    const circulation = await sent(inSeries(stage('review', ['oskar'])));
    const { seats } = await view(circulation);
    const remind = { circulation, seat: seats[0]?.id ?? '' };
    const listed = async () =>
      (await w.ask('petra', 'circulation.list', {})).rows.some((row) => row.id === circulation);
    expect(await listed()).toBe(false);
    expect(await w.refused('petra', 'circulation.view', { circulation })).toBe('not-found');
    // What it would concern is said before.
    expect((await w.ask('thea', 'rules.reach')).leadsSteer).toEqual({ circulations: 1, people: 2 });
    expect(await w.refused('petra', 'rules.reach')).toBe('not-allowed');
    await w.ask('thea', 'rules.set', { rule: 'leadsSteer', on: true });
    expect(await listed()).toBe(true);
    expect((await view(circulation, 'petra')).steers).toBe(true);
    await w.forward(3_700_000);
    await w.ask('petra', 'circulation.remind', remind);
    await w.ask('yuki', 'circulation.extend', { ...remind, due: (await w.now()) + 86_400_000, closes: null });
    await w.ask('thea', 'rules.set', { rule: 'leadsSteer', on: false });
    expect(await listed()).toBe(false);
    await w.forward(3_700_000);
    expect(await w.refused('petra', 'circulation.remind', remind)).toBe('not-found');
    // What she did stays on record as hers.
    expect((await view(circulation)).trail.map((line) => line.actor)).toEqual(
      expect.arrayContaining(['petra', 'yuki']),
    );
  });
});

describe('a group', () => {
  const crew = { id: 'crew', name: 'Night crew', members: ['petra', 'oskar', 'yuki'] };

  it('is asked as one: its task stands on every desk until somebody takes it, and again when it is given back', async () => {
    await w.ask('thea', 'groups.save', crew);
    const circulation = await sent(inSeries(asking('review', [{ kind: 'group', group: 'crew', members: 'any' }])));
    const [seat] = (await view(circulation)).seats;
    const on = { circulation, seat: seat?.id ?? '', epoch: seat?.epoch ?? 0 };
    for (const person of crew.members) expect(await desk(person), person).toContain(circulation);
    expect(await desk('benedikt')).not.toContain(circulation);
    expect(new Set(w.mails.slice(-3).map(w.toOf))).toEqual(new Set(crew.members));

    const both = await Promise.all(['petra', 'oskar'].map((person) => w.answer(person, 'circulation.take', on)));
    expect(both.map((one) => (one.ok ? 'ok' : one.refusal.code)).sort()).toEqual(['ok', 'taken-already']);
    const taker = both[0]?.ok ? 'petra' : 'oskar';
    for (const person of crew.members)
      expect((await desk(person)).includes(circulation), person).toBe(person === taker);
    expect(await w.refused('yuki', 'circulation.giveBack', on)).toBe('not-holder');
    await w.ask(taker, 'circulation.giveBack', on);
    for (const person of crew.members) expect(await desk(person), person).toContain(circulation);

    // Who has taken it and leaves the group has it given back.
    await w.ask('oskar', 'circulation.take', on);
    await w.ask('thea', 'groups.save', { ...crew, members: ['petra', 'yuki'] });
    for (const person of crew.members)
      expect((await desk(person)).includes(circulation), person).toBe(person !== 'oskar');
    await w.ask('thea', 'groups.save', crew);

    // It is not taken away from under those who are asked; who leaves it is asked no more.
    expect(await w.refused('thea', 'groups.remove', { id: 'crew' })).toBe('group-in-use');
    await w.ask('thea', 'groups.save', { ...crew, members: ['oskar', 'yuki'] });
    expect(await desk('petra')).not.toContain(circulation);
    expect((await decide(circulation, on.seat, 'petra', 'done')).ok).toBe(false);
    expect((await decide(circulation, on.seat, 'yuki', 'done')).ok).toBe(true);
    for (const person of crew.members) expect(await desk(person), person).not.toContain(circulation);
    await w.ask('thea', 'groups.remove', { id: 'crew' });
  });

  it('leaves its task to those whom no rule keeps from it', async () => {
    const all = { id: 'night', name: 'Night watch', members: ['petra', 'oskar', 'yuki', 'rufus'] };
    await w.ask('thea', 'groups.save', all);
    const group = { kind: 'group', group: 'night', members: 'any' } as const;
    const first = asking('review', [{ kind: 'person', person: 'petra' }]);
    const second = asking('approve', [group, { kind: 'person', person: 'oskar' }]);
    const circulation = await sent(inSeries(first, { ...second, independentOf: [first.id] }));
    const { seats } = await view(circulation);
    const [asked, night] = [seats[0]?.id ?? '', seats.find((seat) => seat.group !== null)?.id ?? ''];
    expect((await decide(circulation, asked, 'petra', 'done')).ok).toBe(true);
    // Petra has responded where others are needed, Oskar has a seat of his own there, Rufus wrote the text.
    const there = async (person: string) =>
      (await w.ask(person, 'desk.tasks', { filter: '', after: null })).rows.filter(
        (row) => row.circulation === circulation && row.person === 'group:night',
      ).length;
    expect(await Promise.all(all.members.map(there))).toEqual([0, 0, 1, 0]);
    const early = await decide(circulation, night, 'petra', 'approved');
    expect(early).toMatchObject({ ok: false, refusal: { code: 'independent' } });
    expect((await decide(circulation, night, 'yuki', 'approved')).ok).toBe(true);
    await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'over' });
    await w.ask('thea', 'groups.remove', { id: 'night' });
  });

  it('that is gone under a plan is said before sending, and refused when it is sent all the same', async () => {
    await w.ask('thea', 'groups.save', { ...crew, id: 'day', name: 'Day crew' });
    const circulation = await planned(inSeries(asking('review', [{ kind: 'group', group: 'day', members: 'any' }])));
    await w.ask('thea', 'groups.remove', { id: 'day' });
    expect(await sending(circulation)).toBe('group-unknown');
    expect((await view(circulation)).phase).toBe('new');
  });
});

describe('a unit that is asked', () => {
  const north = { id: 'north', name: 'North face', lead: 'benedikt', deputy: 'oskar' };
  const place = (person: string, unit: string | null) => w.ask('thea', 'people.place', { person, unit });

  it('is asked like a group: of whoever belongs to it then, and whoever leaves it is asked no more', async () => {
    await w.ask('thea', 'units.save', north);
    for (const person of ['petra', 'yuki']) await place(person, 'north');
    const any = { kind: 'unit', unit: 'north', members: 'any' } as const;
    const circulation = await sent(inSeries(asking('review', [any])));
    const [seat] = (await view(circulation)).seats;
    for (const person of ['petra', 'yuki']) expect(await desk(person), person).toContain(circulation);
    expect(await desk('benedikt'), 'who leads it belongs to another').not.toContain(circulation);
    expect(await w.refused('thea', 'units.remove', { id: 'north' })).toBe('unit-in-use');
    // Who has taken it and is placed elsewhere has it given back.
    await w.ask('petra', 'circulation.take', { circulation, seat: seat?.id ?? '', epoch: seat?.epoch ?? 0 });
    expect(await desk('yuki')).not.toContain(circulation);
    await place('petra', null);
    expect(await desk('petra')).not.toContain(circulation);
    expect(await desk('yuki')).toContain(circulation);
    expect((await decide(circulation, seat?.id ?? '', 'petra', 'done')).ok).toBe(false);
    expect((await decide(circulation, seat?.id ?? '', 'yuki', 'done')).ok).toBe(true);
    await place('yuki', null);
  });

  it('has its people asked each, or whoever leads it, its deputy where the lead wrote the text', async () => {
    for (const person of ['petra', 'yuki']) await place(person, 'north');
    await w.ask('thea', 'units.save', { ...north, lead: 'rufus' });
    const of = (members: 'every' | 'lead') => ({ kind: 'unit', unit: 'north', members }) as const;
    const circulation = await sent(inSeries(asking('review', [of('every')]), asking('approve', [of('lead')])));
    const { seats, trail } = await view(circulation);
    expect(seats.map((seat) => seat.holder).sort()).toEqual(['oskar', 'petra', 'yuki']);
    expect(trail.flatMap(({ roles }) => roles)).toEqual([{ name: 'lead of North face', person: 'oskar' }]);
    await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'over' });
    for (const person of ['petra', 'yuki']) await place(person, null);
    await w.ask('thea', 'units.remove', { id: 'north' });
    const gone = await planned(inSeries(asking('review', [of('every')]), asking('approve', [of('lead')])));
    expect(await sending(gone)).toBe('group-unknown');
  });
});

describe('a role filled from outside', () => {
  it('asks that person by a link of their own', async () => {
    await w.ask('thea', 'roles.save', { id: 'witness', name: 'Outside witness', person: 'jarek' });
    const circulation = await sent(inSeries(asking('review', [{ kind: 'role', role: 'witness' }])));
    expect((await view(circulation)).seats).toMatchObject([{ holder: 'jarek', outside: true, status: 'asked' }]);
    const mail = w.mails.at(-1) as (typeof w.mails)[number];
    expect(w.toOf(mail)).toBe('jarek');
    await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'over' });
    await w.ask('thea', 'roles.remove', { id: 'witness' });
  });

  it('is filled when it is sent, by whoever fills it then; one that nobody fills or that is gone stops the sending', async () => {
    await w.ask('thea', 'roles.save', { id: 'safety', name: 'Safety officer', person: null });
    const circulation = await planned(inSeries(asking('review', [{ kind: 'role', role: 'safety' }])));
    expect(await sending(circulation)).toBe('role-unfilled');
    await w.ask('thea', 'roles.remove', { id: 'safety' });
    expect(await sending(circulation)).toBe('role-unknown');
    await w.ask('thea', 'roles.save', { id: 'safety', name: 'Safety officer', person: 'oskar' });
    expect(await sending(circulation)).toBe('sent');
    // Who fills it later changes nothing that was sent.
    await w.ask('thea', 'roles.save', { id: 'safety', name: 'Safety officer', person: 'yuki' });
    expect((await view(circulation)).seats.map((seat) => seat.holder)).toEqual(['oskar']);
    expect(await desk('oskar')).toContain(circulation);
  });
});

describe('what a type declares', () => {
  const amount: FactType = {
    id: 'amount',
    name: 'Amount',
    kind: 'amount',
    needed: true,
    standard: null,
    least: 0,
    most: null,
    choices: [],
    currency: 'NOK',
  };
  const worth = (thousand: number) => ({
    amount: { kind: 'amount' as const, thousandths: thousand * 1_000_000, currency: 'NOK' },
  });
  const costly = asking('approve', [{ kind: 'person', person: 'oskar' }], {
    condition: { kind: 'fact', fact: 'amount', is: 'over', value: worth(100).amount },
  });
  const route = () => inSeries(stage('review', ['petra']), { ...costly, id: `c${Math.random()}`.replace('.', '') });

  it('is asked for before sending, decides who is asked, and changes only what has not been reached', async () => {
    const type = (await w.ask('thea', 'register.types')).find((one) => one.code === 'AGR');
    if (!type) throw new Error('no AGR');
    const { code, name, scheme, active, marginLine, custodian } = type;
    const described = { type: code, name, scheme, active, marginLine, custodian, added: false };
    await w.ask('thea', 'types.describe', { ...described, facts: [amount] });

    const empty = await planned(route(), { documentType: 'AGR' });
    expect(await sending(empty)).toBe('fact-missing');
    expect(
      await w.refused('ines', 'circulation.plan', {
        circulation: empty,
        note: null,
        route: route(),
        facts: worth(-1),
        basis: null,
      }),
    ).toBe('fact-unfit');

    const circulation = await sent(route(), { documentType: 'AGR', facts: worth(20) });
    expect(await w.refused('petra', 'circulation.giveFacts', { circulation, facts: worth(200) })).toBe('not-allowed');
    // Its author gives them as well as its controller.
    await w.ask('rufus', 'circulation.giveFacts', { circulation, facts: worth(200) });
    const [first] = (await view(circulation)).seats;
    await decide(circulation, first?.id ?? '', 'petra', 'done');
    expect(await desk('oskar')).toContain(circulation);
    // It was reached, so that it stays asked whatever the amount becomes.
    await w.ask('ines', 'circulation.giveFacts', { circulation, facts: worth(5) });
    expect(await desk('oskar')).toContain(circulation);

    const small = await sent(route(), { documentType: 'AGR', facts: worth(20) });
    const [one] = (await view(small)).seats;
    await decide(small, one?.id ?? '', 'petra', 'done');
    await w.work();
    expect(await desk('oskar')).not.toContain(small);
    const { stages, phase } = await view(small);
    expect([stages[1]?.skipped, phase]).toEqual([true, 'finishing']);
  });
});

describe('a file that is sent quickly', () => {
  it('asks for no value, whatever its type needs, and keeps to the rules of the house', async () => {
    const type = (await w.ask('thea', 'register.types')).find((one) => one.usual);
    if (!type) throw new Error('no usual type');
    const { code, name, scheme, active, marginLine, custodian, facts } = type;
    const described = { type: code, name, scheme, active, marginLine, custodian, added: false };
    const needed: FactType = {
      id: 'urgent',
      name: 'Urgent',
      kind: 'yesNo',
      needed: true,
      standard: null,
      least: null,
      most: null,
      choices: [],
      currency: '',
    };
    await w.ask('thea', 'types.describe', { ...described, facts: [needed] });
    await w.ask('thea', 'rules.set', { rule: 'delegatingAgreed', on: true });
    const file = await w.pdf('Quick', 1, 'oskar');
    const { circulation } = await w.ask('oskar', 'desk.sendQuick', {
      file: file.hash,
      name: 'quick.pdf',
      title: 'Quick',
      people: [{ kind: 'person', person: 'petra' }],
      due: null,
      note: null,
    });
    const { stages, phase } = await view(circulation, 'oskar');
    expect([phase, stages[0]?.allows.delegate]).toEqual(['running', 'agreed']);
    await w.ask('thea', 'rules.set', { rule: 'delegatingAgreed', on: false });
    await w.ask('thea', 'types.describe', { ...described, facts });
  });
});

describe('two people who plan at once', () => {
  it('are told of one another: who saves on what has moved meanwhile is refused, unless they say so', async () => {
    const circulation = await planned(inSeries(stage('review', ['petra'])));
    const { route, note, whole, factsGiven } = await view(circulation);
    const basis = planSign(route, { note: note ?? '', whole, facts: factsGiven });
    const save = (people: string[], on: string | null) =>
      w.answer('ines', 'circulation.plan', {
        circulation,
        note: null,
        facts: {},
        route: inSeries(stage('review', people)),
        basis: on,
      });
    expect((await save(['oskar'], basis)).ok).toBe(true);
    const late = await save(['yuki'], basis);
    expect(late.ok ? '' : late.refusal.code).toBe('plan-moved');
    expect((await view(circulation)).seats.map((seat) => seat.holder)).toEqual(['oskar']);
    expect((await save(['yuki'], null)).ok).toBe(true);
  });
});

describe('a table', () => {
  const read = (content: string, table: 'people' | 'units' | 'groups' = 'people') =>
    w.ask('thea', 'organization.readTable', { table, content });
  const people = async () => (await w.ask('thea', 'people.list', {})).rows.length;

  it('is checked line by line before anything is written, and written whole or not at all', async () => {
    const before = await people();
    const bad = [
      'Name;Email;Job title;Unit',
      'Edda Sol;edda@mr.example;rope mechanic;',
      'Edda Again;EDDA@mr.example;;',
      '=HYPERLINK("http://x");knut@mr.example;;',
      'Knut Ask;knut;;',
      'Rolf Vik;rolf@mr.example;;Nowhere',
      'Petra Novak;petra@mr.example;;',
    ].join('\r\n');
    const checked = await read(bad);
    expect(checked.lines.map((line) => line.faults.map(({ why }) => why).join())).toEqual([
      '',
      'twice',
      'formula',
      'email-unfit',
      'unknown-unit',
      '',
    ]);
    const write = { table: 'people', content: bad, invite: false, sign: checked.sign } as const;
    expect(await w.refused('thea', 'organization.importTable', write)).toBe('table-moved');
    expect(await people()).toBe(before);
    expect(await w.refused('ines', 'organization.importTable', write)).toBe('not-allowed');

    const good = 'Name,Email,Unit\nEdda Sol,edda@mr.example,"Ropes, drives and grips"\n';
    const fine = await read(good);
    expect(fine.lines.map(({ does, faults }) => [does, faults.length])).toEqual([['add', 0]]);
    const given = { table: 'people', content: good, invite: false } as const;
    expect(await w.ask('thea', 'organization.importTable', { ...given, sign: fine.sign })).toEqual({
      added: 1,
      changed: 0,
    });
    expect(await people()).toBe(before + 1);
    // The same once more changes nothing, and what was checked before does not hold any more.
    expect(await w.refused('thea', 'organization.importTable', { ...given, sign: fine.sign })).toBe('table-moved');
    expect((await read(good)).lines[0]?.does).toBe('nothing');
  });

  it('of units and groups is taken in by addresses; letters that were lost and columns that are missing are said', async () => {
    const groups = 'Group;Member\nFire watch;petra@mr.example\nFire watch;yuki@mr.example\n';
    const { sign } = await read(groups, 'groups');
    await w.ask('thea', 'organization.importTable', { table: 'groups', content: groups, invite: false, sign });
    const found = (await w.ask('petra', 'organization.view')).groups.find((one) => one.name === 'Fire watch');
    expect(found?.members).toEqual(['petra', 'yuki']);
    // What there is now is a table that changes nothing when it is read again.
    for (const kind of ['people', 'units', 'groups'] as const) {
      const rows = await w.ask('thea', 'organization.table', { table: kind });
      const { lines } = await read(csvOut(rows), kind);
      expect(
        lines.map(({ does, faults }) => [does, ...faults]),
        kind,
      ).toEqual(Array.from({ length: rows.length - 1 }, () => ['nothing']));
    }
    const refusedAs = async (content: string, table = 'people') =>
      w.refused('thea', 'organization.readTable', { table, content });
    expect(await refusedAs('Name;Email\nJ\uFFFDrgen;j@mr.example')).toBe('table-letters-lost');
    expect(await refusedAs('Name;Phone\nEdda;1')).toBe('table-columns');
    expect(await refusedAs('Name;Email\n"Edda;e@mr.example')).toBe('table-unread');
    expect(await refusedAs('Name;Email\n')).toBe('table-empty');
  });
});

describe('a working calendar', () => {
  it('counts what is due for whoever is asked, over their own days off', async () => {
    const workday = [{ from: 480, to: 960 }];
    const week = [workday, workday, workday, workday, workday, [], []];
    const now = await w.now();
    const day = (n: number) => new Date(now + n * 86_400_000).toISOString().slice(0, 10);
    // Every day of a week is off for Petra, none for Oskar.
    const holidays = Array.from({ length: 7 }, (_, n) => ({ day: day(n), name: 'Closed' }));
    await w.ask('thea', 'calendars.save', { id: 'house', name: 'House', week, holidays: [], usual: true });
    await w.ask('thea', 'calendars.save', { id: 'closed', name: 'Closed house', week, holidays, usual: false });
    await w.ask('thea', 'people.place', { person: 'petra', unit: null, calendar: 'closed' });
    const after = { kind: 'after', amount: 4, unit: 'workingHours' } as const;
    const circulation = await sent(inSeries({ ...stage('review', ['petra', 'oskar']), due: after }));
    const dueOf = async (person: string) =>
      (await view(circulation)).seats.find((seat) => seat.holder === person)?.due ?? 0;
    expect(await dueOf('petra')).toBeGreaterThan(now + 6 * 86_400_000);
    expect(await dueOf('oskar')).toBeLessThan(now + 6 * 86_400_000);
    // It was counted once: what a calendar becomes later moves nothing.
    const before = await dueOf('petra');
    await w.ask('thea', 'calendars.save', { id: 'closed', name: 'Closed house', week, holidays: [], usual: false });
    expect(await dueOf('petra')).toBe(before);
    const refused = (more: object) =>
      w.refused('thea', 'calendars.save', { id: 'x', name: 'X', week, holidays: [], usual: false, ...more });
    expect(await refused({ week: week.map(() => []) })).toBe('never-works');
    expect(await refused({ week: [[{ from: 600, to: 480 }], [], [], [], [], [], []] })).toMatch(/week-unfit|bad-input/);
  });

  it('takes holidays from iCalendar, and says what it had to leave out', async () => {
    const text = (...lines: string[]) =>
      ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:x', ...lines, 'END:VCALENDAR', ''].join('\r\n');
    const event = (...lines: string[]) => ['BEGIN:VEVENT', 'UID:u', 'SUMMARY:Off', ...lines, 'END:VEVENT'];
    const content = text(
      ...event('DTSTART;VALUE=DATE:20261225', 'RRULE:FREQ=YEARLY'),
      ...event('DTSTART;TZID=Nowhere/Atall:20261231T090000'),
    );
    const found = await w.ask('thea', 'calendars.readHolidays', { content });
    expect(found.holidays.map(({ day }) => day)).toContain('2026-12-25');
    expect(found.holidays.length).toBeLessThan(20);
    expect(found.leftOut).toHaveLength(1);
    expect(await w.refused('thea', 'calendars.readHolidays', { content: 'Happy holidays' })).toBe('not-icalendar');
  });
});

describe('delegating', () => {
  it('asks the controller first where the stage says so; nothing moves until they agree', async () => {
    const agreed = { ...stage('review', ['petra']), allows: { ...usualAllows, delegate: 'agreed' as const } };
    const circulation = await sent(inSeries(agreed));
    const [seat] = (await view(circulation)).seats;
    const on = { circulation, seat: seat?.id ?? '', epoch: seat?.epoch ?? 0 };
    await w.ask('petra', 'circulation.delegate', { ...on, to: 'yuki', note: 'I am away.' });
    expect((await view(circulation)).seats[0]).toMatchObject({ holder: 'petra', proposal: { to: 'yuki' } });
    expect(await desk('yuki')).not.toContain(circulation);
    expect(await w.refused('petra', 'circulation.agree', { ...on, agreed: true, note: null })).toBe('not-allowed');
    await w.ask('ines', 'circulation.agree', { ...on, agreed: true, note: null });
    expect((await view(circulation)).seats[0]).toMatchObject({ holder: 'yuki', proposal: null });
    expect(await desk('yuki')).toContain(circulation);
  });

  it('by somebody outside goes to somebody outside; their own link says to whom, and the sender is told', async () => {
    const circulation = await sent(inSeries(stage('review', ['jarek'])));
    await w.work();
    const link = w.linkIn(w.mails.findLast((mail) => w.toOf(mail) === 'jarek'));
    const put = async (name: string, input: object = {}) => {
      const answer = await w.throughLink(link, name, input);
      return answer.ok ? 'ok' : answer.refusal.code;
    };
    // Nobody inside can be reached that way, whatever address is given.
    expect(await put('seat.delegate', { name: 'Edda Sol', email: 'edda@elsewhere.example' })).toBe('ok');
    await w.work();
    const [seat] = (await view(circulation)).seats;
    expect(seat?.outside).toBe(true);
    const told = await w.throughLink(link, 'seat.view');
    expect(told.ok ? '' : [told.refusal.code, told.refusal.sentence]).toEqual([
      'link-delegated',
      'You delegated this to edda@elsewhere.example, so there is nothing more for you to do here.',
    ]);
    expect(w.mails.slice(-3).map(w.toOf)).toContain('edda');
    const { rows } = await w.ask('ines', 'told.list', { all: false });
    expect(rows.some((row) => row.text.includes('has delegated their part'))).toBe(true);
  });
});

describe('a circulation under way', () => {
  it('is paused and let go on, which everybody who is asked is told; nothing waits for them meanwhile', async () => {
    const review = stage('review', ['oskar', 'yuki']);
    const circulation = await sent(inSeries(review, stage('read', ['petra'])));
    const seat = (await view(circulation)).seats[0]?.id ?? '';
    expect(await w.refused('oskar', 'circulation.pause', { circulation })).toBe('not-allowed');
    await w.ask('ines', 'circulation.pause', { circulation, note: 'The drive is being measured again' });
    await w.work();
    expect(new Set(w.mails.slice(-3).map(w.toOf))).toEqual(new Set(['oskar', 'yuki', 'rufus']));
    expect(w.mails.at(-1)?.text).toContain('The drive is being measured again');
    expect(await desk('oskar')).not.toContain(circulation);
    expect(await desk('ines')).toContain(circulation);
    const refused = await decide(circulation, seat, 'oskar', 'done');
    expect(refused.ok ? 'ok' : refused.refusal.code).toBe('paused');
    await w.ask('ines', 'circulation.goOn', { circulation });
    await w.work();
    expect(new Set(w.mails.slice(-2).map(w.toOf))).toEqual(new Set(['oskar', 'yuki']));
    expect(await desk('oskar')).toContain(circulation);
    expect((await decide(circulation, seat, 'oskar', 'done')).ok).toBe(true);
  });

  it('is handed to another controller, who is told, sees it and steers it; the former one only looks', async () => {
    const circulation = await sent(inSeries(stage('review', ['oskar'])));
    const hand = { circulation, to: 'yuki', note: null };
    expect(await w.refused('ines', 'circulation.handControl', { ...hand, to: 'jarek' })).toMatch(/unknown/);
    await w.ask('ines', 'circulation.handControl', hand);
    await w.work();
    expect(w.toOf(w.mails.at(-1) as never)).toBe('yuki');
    const seat = (await view(circulation, 'yuki')).seats[0]?.id ?? '';
    await w.ask('yuki', 'circulation.remind', { circulation, seat });
    expect(await w.refused('ines', 'circulation.remind', { circulation, seat })).toBe('not-allowed');
    const { trail, controller } = await view(circulation);
    expect(controller).toBe('yuki');
    expect(trail.filter(({ type }) => type === 'control.handed')).toMatchObject([{ actor: 'ines', to: 'yuki' }]);
  });

  it('whose stage has too few left is completed with as many as the controller says', async () => {
    const seats: Assignment[] = ['oskar', 'yuki', 'petra'].map((person) => ({ kind: 'person', person }));
    const circulation = await sent(
      inSeries(asking('review', seats, { rule: { kind: 'atLeast', k: 3 }, onDecline: 'count' })),
    );
    const { seats: asked, stages } = await view(circulation);
    await decide(circulation, asked[0]?.id ?? '', 'oskar', 'done');
    await w.ask('yuki', 'seat.decideMine', {
      ...(await seatIn(circulation, asked[1]?.id ?? '')),
      outcome: 'declined',
      note: 'On leave',
    });
    const enough = { circulation, stage: stages[0]?.id ?? '' };
    expect(await w.refused('ines', 'circulation.setEnough', { ...enough, k: 3 })).toBe('enough-unfit');
    await w.ask('ines', 'circulation.setEnough', { ...enough, k: 1 });
    expect((await view(circulation)).phase).toBe('finishing');
  });

  it('is asked about before somebody responds, inside and through a link; who knows answers, and the asker is told', async () => {
    const circulation = await sent(inSeries(stage('review', ['oskar', 'jarek'])));
    const [inside, outside] = (await view(circulation)).seats;
    const { seat, epoch } = await seatIn(circulation, inside?.id ?? '');
    const put = { circulation, seat, epoch, question: 'q-inside', text: 'Is the old torque meant?' };
    expect(await w.refused('yuki', 'circulation.askQuestion', put)).toBe('not-found');
    await w.ask('oskar', 'circulation.askQuestion', put);
    await w.work();
    expect(new Set(w.mails.slice(-2).map(w.toOf))).toEqual(new Set(['ines', 'rufus']));
    expect(w.mails.at(-1)?.text).toContain('Is the old torque meant?');
    expect(await desk('rufus')).toContain(circulation);
    const answer = { circulation, question: 'q-inside', text: 'No, the new one.' };
    expect(await w.refused('oskar', 'circulation.answerQuestion', answer)).toBe('not-allowed');
    await w.ask('rufus', 'circulation.answerQuestion', answer);
    await w.work();
    expect(w.toOf(w.mails.at(-1) as never)).toBe('oskar');
    const { questions } = await view(circulation, 'oskar');
    expect(questions).toMatchObject([
      { by: 'oskar', note: 'Is the old torque meant?', answer: { by: 'rufus', note: 'No, the new one.' } },
    ]);
    const link = w.linkIn(w.mails.findLast((mail) => w.toOf(mail) === 'jarek'));
    const through = async (name: 'seat.askQuestion' | 'seat.view', input: object) => {
      const answered = await w.throughLink(link, name, input);
      return answered.ok ? answered.value : answered.refusal.code;
    };
    await through('seat.askQuestion', { question: 'q-outside', text: 'Whose seal?' });
    await w.ask('ines', 'circulation.answerQuestion', { circulation, question: 'q-outside', text: 'Ours.' });
    // Somebody outside sees their own question and its answer, and nobody else's.
    expect(await through('seat.view', {})).toMatchObject({
      seat: outside?.id,
      questions: [{ text: 'Whose seal?', answer: { text: 'Ours.' } }],
    });
  });

  it('reaches somebody outside at another address once it is corrected; the old link opens nothing', async () => {
    const circulation = await sent(inSeries(stage('review', ['jarek'])));
    const seat = (await view(circulation)).seats[0]?.id ?? '';
    const old = w.linkIn(w.mails.findLast((mail) => w.toOf(mail) === 'jarek'));
    const email = 'jarek.right@elsewhere.example';
    expect(await w.refused('oskar', 'circulation.correctAddress', { circulation, seat, email })).toBe('not-found');
    await w.ask('ines', 'circulation.correctAddress', { circulation, seat, email });
    await w.work();
    const mail = w.mails.at(-1);
    expect(mail?.to.address).toBe(email);
    const answered = await w.throughLink(old, 'seat.view');
    expect(answered.ok ? 'ok' : answered.refusal.code).toBe('link-moved');
    expect(JSON.stringify(answered)).not.toContain(email);
    expect((await w.throughLink(w.linkIn(mail), 'seat.view')).ok).toBe(true);
    const { trail } = await view(circulation);
    expect(trail.find(({ type }) => type === 'seat.readdressed')?.note).toMatch(/^jarek\S* → jarek\.right@/);
  });
});
