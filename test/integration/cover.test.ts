import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Cover } from '@/core/people/cover';
import type { AdministrationEvent } from '@/core/people/events';
import type { Outcome } from '@/core/route/verbs';
import { inSeries, organization, stage, type World, world } from './world';

const hour = 3_600_000;
let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const view = (circulation: string, person = 'ines') => w.ask(person, 'circulation.view', { circulation });
const desk = async (person: string) => (await w.ask(person, 'desk.tasks', {})).rows;
const deskHas = async (person: string, circulation: string) =>
  (await desk(person)).some((row) => row.circulation === circulation);

async function sent(...stages: Parameters<typeof inSeries>) {
  return (await w.sent(inSeries(...stages))).circulation;
}
const decide = async (circulation: string, person: string, outcome: Outcome, holder: string) => {
  const seat = (await view(circulation)).seats.find((one) => one.holder === holder);
  const { id = '', epoch = 0, scope } = seat ?? {};
  const answer = await w.answer(person, 'seat.decideMine', {
    circulation,
    seat: id,
    epoch,
    scope: scope ?? '',
    outcome,
    note: 'w',
  });
  return answer.ok ? 'ok' : answer.refusal.code;
};
const away = async (person: string, hours: readonly [number, number], covers: readonly Cover[], by = person) => {
  const now = await w.now();
  const absence = { id: randomUUID(), person, from: now + hours[0] * hour, to: now + hours[1] * hour, covers };
  await w.ask(by, 'absences.save', absence as never);
  await w.work();
  return absence;
};
const all = (by: string): Cover => ({ by, verbs: 'all', types: 'all' });
const told = (subject: string) => w.mails.filter((mail) => mail.subject.includes(subject)).map((mail) => w.toOf(mail));

describe('cover', () => {
  it('begins with a task open, brings it to whoever covers, and ends with it open: then it is theirs no more', async () => {
    const circulation = await sent(stage('approve', ['oskar', 'petra']));
    expect((await w.answer('yuki', 'circulation.view', { circulation })).ok).toBe(false);
    const absence = await away('oskar', [1, 48], [all('yuki')]);
    expect(told('You cover for Oskar Thiele from')).toEqual(['yuki']);
    expect(await deskHas('yuki', circulation)).toBe(false);
    await w.forward(hour);
    await w.work();
    await w.work();
    expect(told('You cover for Oskar Thiele now')).toEqual(['yuki']);
    expect(w.mails.at(-1)?.text).toContain('One task of theirs waits for you');
    // It stands on the Desk as Oskar's, in the list of circulations, and its page opens with its files.
    expect((await desk('yuki')).map(({ person, circulation: of }) => [person, of])).toEqual([['oskar', circulation]]);
    expect((await w.ask('yuki', 'circulation.list', {})).rows.map(({ id }) => id)).toEqual([circulation]);
    const shown = await view(circulation, 'yuki');
    expect(shown.seats.find(({ holder }) => holder === 'oskar')?.covers).toEqual([
      { person: 'yuki', for: 'oskar', until: absence.to },
    ]);
    expect(await w.refused('yuki', 'circulation.remind', { circulation, seat: 'x' })).toBe('not-allowed');
    // What is asked while it runs comes to both.
    const next = await sent(stage('review', ['oskar']));
    expect(
      w.mails
        .slice(-2)
        .map((mail) => w.toOf(mail))
        .sort(),
    ).toEqual(['oskar', 'yuki']);
    expect(
      w.mails.find((mail) => w.toOf(mail) === 'yuki' && /asked because you cover for Oskar Thiele/.test(mail.text)),
    ).toBeDefined();
    expect(await decide(next, 'yuki', 'done', 'oskar')).toBe('ok');
    const { trail, seats } = await view(next);
    expect(trail.find(({ type }) => type === 'seat.decided')).toMatchObject({
      actor: 'yuki',
      onBehalfOf: 'oskar',
      coverUntil: absence.to,
    });
    expect(seats[0]?.decision).toMatchObject({ by: 'yuki', onBehalfOf: 'oskar' });
    // Whoever decided keeps seeing it.
    await w.ask('oskar', 'absences.end', { id: absence.id });
    await w.work();
    expect(told('You no longer cover')).toEqual(['yuki']);
    expect((await view(next, 'yuki')).phase).toBe('finishing');
    expect(await deskHas('yuki', circulation)).toBe(false);
    // She is told so plainly; what is asked from now on was never hers.
    expect(await decide(circulation, 'yuki', 'approved', 'oskar')).toBe('cover-over');
    expect(await w.refused('yuki', 'circulation.view', { circulation })).toBe('cover-over');
    const since = await sent(stage('approve', ['oskar']));
    expect(await decide(since, 'yuki', 'approved', 'oskar')).toBe('not-found');
    expect(await decide(circulation, 'oskar', 'approved', 'oskar')).toBe('ok');
  });

  it('is set by oneself or an administrator, is told to both, and never runs in a circle', async () => {
    const now = await w.now();
    const one = { id: randomUUID(), person: 'petra', from: now, to: now + 9 * hour, covers: [all('benedikt')] };
    expect(await w.refused('ines', 'absences.save', one)).toBe('not-allowed');
    await w.ask('thea', 'absences.save', one);
    await w.work();
    expect(told('You are set as away')).toEqual(['petra']);
    expect(told('You cover for Petra Novak now')).toEqual(['benedikt']);
    const back = { ...one, id: randomUUID(), person: 'benedikt', covers: [all('petra')] };
    expect(await w.refused('benedikt', 'absences.save', back)).toBe('cover-circle');
    expect(await w.refused('petra', 'absences.save', { ...one, id: randomUUID() })).toBe('absence-overlaps');
    expect(await w.refused('petra', 'absences.save', { ...one, covers: [] })).toBe('absence-begun');
    expect(await w.refused('petra', 'absences.save', { ...one, id: randomUUID(), covers: [all('jarek')] })).toBe(
      'unknown-person',
    );
    const ended = { ...one, id: randomUUID(), from: now - 9 * hour, to: now - hour };
    expect(await w.refused('petra', 'absences.save', ended)).toBe('absence-past');
    expect(await w.refused('benedikt', 'absences.end', { id: one.id })).toBe('not-allowed');
    await w.ask('thea', 'absences.end', { id: one.id });
    expect(await w.refused('thea', 'absences.end', { id: one.id })).toBe('absence-over');
    expect((await w.ask('ines', 'organization.view')).absences).toEqual([]);
    // Taken back before it begins, it never was.
    const later = await away('petra', [5, 9], [all('benedikt')]);
    await w.ask('petra', 'absences.end', { id: later.id });
    await w.forward(6 * hour);
    await w.work();
    expect(told('You cover for Petra Novak now')).toEqual(['benedikt']);
  });

  it('that is set otherwise before it begins is told to whoever it concerns, each once, and to nobody else', async () => {
    const covers = [
      { by: 'yuki', verbs: ['review'], types: 'all' },
      { by: 'yuki', verbs: ['approve'], types: 'all' },
      { by: 'oskar', verbs: ['sign'], types: 'all' },
    ] as const;
    const before = w.mails.length;
    const since = () => w.mails.slice(before).map((mail) => `${w.toOf(mail)}: ${mail.subject.replace(/ from .*/, '')}`);
    const set = await away('petra', [50, 90], covers, 'thea');
    const first = ['oskar: You cover for Petra Novak', 'petra: You are set as away', 'yuki: You cover for Petra Novak'];
    expect(since().sort()).toEqual(first);
    // Another one instead of Oskar; nothing changes for Yuki.
    const others = [...covers.slice(0, 2), { by: 'benedikt', verbs: ['sign'], types: 'all' }];
    await w.ask('petra', 'absences.save', { ...set, covers: others } as never);
    await w.work();
    const second = ['benedikt: You cover for Petra Novak', 'oskar: You no longer cover for Petra Novak'];
    expect(since().slice(3).sort()).toEqual(second);
    await w.ask('thea', 'absences.end', { id: set.id });
    await w.work();
    expect(since().slice(5).sort()).toEqual([
      'benedikt: You no longer cover for Petra Novak',
      'petra: You are no longer set as away',
      'yuki: You no longer cover for Petra Novak',
    ]);
  });

  it('leads to the end of its chain, for the kinds of work it is for, and past nobody who may not', async () => {
    const approval = await sent(stage('approve', ['petra']));
    const review = await sent(stage('review', ['petra']));
    const own = await sent(stage('approve', ['petra', 'yuki']));
    const both = [
      await away('petra', [0, 20], [{ by: 'oskar', verbs: ['approve'], types: ['PRO'] }]),
      await away('oskar', [0, 20], [all('yuki')]),
    ];
    const seen = (await desk('yuki')).map(({ circulation }) => circulation);
    expect(seen).toContain(approval);
    expect(seen).not.toContain(review);
    // She is asked there herself, so her cover for Petra is cut.
    expect((await desk('yuki')).filter(({ circulation }) => circulation === own).map(({ person }) => person)).toEqual([
      'yuki',
    ]);
    expect(await deskHas('oskar', approval)).toBe(false);
    expect(await decide(own, 'yuki', 'approved', 'petra')).toBe('not-holder');
    expect(await decide(approval, 'yuki', 'approved', 'petra')).toBe('ok');
    for (const { id } of both) await w.ask('thea', 'absences.end', { id });
  });

  it('may be for one another in turn, whoever a circulation names of them', async () => {
    const one = await away('benedikt', [0, 2], [all('thea')]);
    await away('thea', [30, 60], [all('benedikt')]);
    for (const people of [['benedikt'], ['thea'], ['benedikt', 'thea']]) {
      const circulation = await sent(stage('review', people));
      expect((await view(circulation)).seats.map(({ holder }) => holder)).toEqual(people);
    }
    await w.ask('benedikt', 'absences.end', { id: one.id });
  });

  it('begins with tasks that somebody had taken going back to their group', async () => {
    await w.ask('thea', 'groups.save', { id: 'rescue', name: 'Rescue', members: ['oskar', 'yuki'] });
    const asked = stage('review', []);
    const circulation = await sent({
      ...asked,
      seats: [
        {
          ...stage('review', ['oskar']).seats[0],
          assignment: { kind: 'group', group: 'rescue', members: 'any' },
        } as never,
      ],
    });
    const seat = (await view(circulation)).seats[0];
    await w.ask('oskar', 'circulation.take', { circulation, seat: seat?.id ?? '', epoch: 1 });
    expect(await deskHas('yuki', circulation)).toBe(false);
    const absence = await away('oskar', [1, 20], [all('petra')]);
    await w.forward(hour);
    // Should the worker end after it has told, whoever does it again still lets the circulation catch up, and tells nobody twice.
    const { beginAbsence } = await import('@/server/organization/absences');
    const begins = () => w.inOrganization(organization, (tx) => beginAbsence(tx, absence.id));
    expect((await begins()).wake).toContain(circulation);
    expect((await begins()).wake).toContain(circulation);
    const before = told('You cover for Oskar Thiele now').length;
    await w.work();
    expect(told('You cover for Oskar Thiele now')).toHaveLength(before + 1);
    expect(await deskHas('yuki', circulation)).toBe(true);
    const { trail } = await view(circulation);
    expect(trail.at(-1)).toMatchObject({ type: 'seat.givenBack', actor: 'system', holder: 'oskar' });
    await w.ask('oskar', 'absences.end', { id: absence.id });
  });

  it('by somebody who leaves is told to whom they cover for; who is a member stands in the record', async () => {
    const absence = await away('petra', [70, 90], [all('benedikt')]);
    const leave = (left: boolean) => w.ask('thea', 'people.leave', { person: 'benedikt', left });
    await leave(true);
    await leave(true);
    await w.work();
    // Benedikt is set to cover for Thea as well.
    expect(told('can no longer cover for you').sort()).toEqual(['petra', 'thea']);
    await leave(false);
    const { eventsOf } = await import('@/server/events/streams');
    const { administrationStream } = await import('@/server/admin/administration');
    const changes = await w.inOrganization(organization, (tx) =>
      eventsOf<AdministrationEvent>(tx, administrationStream),
    );
    const member = changes.flatMap(({ type, data }) =>
      type === 'organization.changed' && data.part === 'member' && data.id === 'benedikt'
        ? [[data.before, data.after]]
        : [],
    );
    const is = { roles: [], zone: 'Europe/Oslo' };
    expect(member).toEqual([
      [is, null],
      [null, is],
    ]);
    await w.ask('petra', 'absences.end', { id: absence.id });
  });
});

describe('a due time that waits for an answer', () => {
  it('is late nowhere, neither in lists nor behind a link', async () => {
    await w.ask('thea', 'rules.set', { rule: 'questionsWait', on: true });
    const due = (await w.now()) + 2 * hour;
    const circulation = await sent(stage('review', ['oskar'], { due }));
    const seat = (await view(circulation)).seats[0];
    const question = { circulation, seat: seat?.id ?? '', epoch: 1, question: 'q', text: 'Which torque?' };
    await w.ask('oskar', 'circulation.askQuestion', question);
    await w.forward(3 * hour);
    const row = (await w.ask('ines', 'circulation.list', {})).rows.find(({ id }) => id === circulation);
    expect(row?.nextDue).toBeNull();
    await w.ask('ines', 'circulation.answerQuestion', { circulation, question: 'q', text: 'The new one' });
    const after = (await w.ask('ines', 'circulation.list', {})).rows.find(({ id }) => id === circulation);
    expect(after?.nextDue).toBeGreaterThan(due + 2 * hour);
  });
});
