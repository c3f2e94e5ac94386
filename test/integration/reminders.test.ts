import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { axisOf, usualCalendar } from '@/core/time/calendar';
import { nextPresent, presenceOf } from '@/core/time/presence';
import { noReminders, pointsOf, usualReminders } from '@/core/time/reminders';
import { inSeries, organization, stage, type World, world } from './world';

const hour = 3_600_000;
const day = 24 * hour;
const oslo = presenceOf(axisOf(usualCalendar, 'Europe/Oslo'), []);
let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});
beforeEach(async () => {
  // Each begins on a working morning, with nothing left to be said of what came before.
  await to(nextPresent(oslo, (await w.now()) + day) ?? 0);
  await w.remind();
});

const view = (circulation: string) => w.ask('ines', 'circulation.view', { circulation });
/** Lets the clock go on to an instant, and reminds whoever is to be reminded then. */
async function to(at: number): Promise<string[]> {
  await w.forward(Math.max(0, at - (await w.now())));
  // Weeks pass here; nobody is signed out by it.
  await w.inOrganization(organization, (tx) => tx.sql`update session set expires = ${tx.now + 90 * day}`);
  const before = w.mails.length;
  await w.remind();
  return w.mails.slice(before).map((mail) => `${w.toOf(mail)}: ${mail.subject}`);
}

async function sent(title: string, people: readonly string[], due: number, documentType = 'PRO') {
  const { circulation } = await w.sent(inSeries(stage('review', people, { due })), { title, documentType });
  const seats = (await view(circulation)).seats;
  return { circulation, since: seats[0]?.since ?? 0, due, seat: seats[0]?.id ?? '' };
}
const points = ({ since, due }: { since: number; due: number }) => pointsOf(usualReminders, since, due, oslo);

describe('reminders', () => {
  it('go out at their points, once each, and after the due time the controller is told', async () => {
    // Due at noon: seconds that pass here do not make it late on its last morning.
    const one = await sent('Brake test', ['oskar'], (await w.now()) + 14 * day + 4 * hour);
    const [half = 0, fifth = 0, morning = 0] = points(one);
    expect(await to(half - 60_000)).toEqual([]);
    expect(await to(half)).toEqual(['oskar: A reminder: please review Brake test']);
    expect(await to(half + hour)).toEqual([]);
    expect(await to(fifth)).toHaveLength(1);
    expect(await to(morning)).toHaveLength(1);
    const late = nextPresent(oslo, one.due) ?? 0;
    expect(await to(late)).toEqual(['ines: Late: Brake test']);
    expect(await to(late + 5 * day)).toEqual([]);
    const { trail, seats } = await view(one.circulation);
    expect(trail.filter(({ type }) => type === 'seat.reminded').map(({ actor }) => actor)).toEqual(
      Array(3).fill('system'),
    );
    expect(trail.filter(({ type }) => type === 'seat.lateTold')).toMatchObject([{ to: 'ines', holder: 'oskar' }]);
    expect(seats[0]?.reminded).toHaveLength(3);
    await w.ask('ines', 'circulation.withdraw', { circulation: one.circulation, reason: 'over' });
  });

  it('to one person within the hour are one message', async () => {
    const due = (await w.now()) + 14 * day;
    const one = await sent('First grease', ['petra'], due);
    const two = await sent('Second grease', ['petra'], due);
    const [half = 0] = points(one);
    const before = w.mails.length;
    expect(await to(half)).toEqual(['petra: 2 reminders: First grease and one more']);
    expect(w.mails[before]?.text).toMatch(/First grease[\s\S]*Second grease/);
    expect(await to(half + 2 * hour)).toEqual([]);
    // Each for a point of its own: both are recorded.
    for (const { circulation } of [one, two]) expect((await view(circulation)).seats[0]?.reminded).toHaveLength(1);
    for (const { circulation } of [one, two])
      await w.ask('ines', 'circulation.withdraw', { circulation, reason: 'over' });
  });

  it('missed while nobody worked are one, and not at night', async () => {
    const one = await sent('Night shift', ['yuki'], (await w.now()) + 14 * day);
    const [, fifth = 0] = points(one);
    const evening = fifth + ((20 * hour - ((fifth + hour) % day) + day) % day);
    expect(await to(evening)).toEqual([]);
    const morning = nextPresent(oslo, evening) ?? 0;
    expect(await to(morning)).toEqual(['yuki: A reminder: please review Night shift']);
    await w.ask('ines', 'circulation.withdraw', { circulation: one.circulation, reason: 'over' });
  });

  it('keep silent while somebody is away and nobody covers; whoever covers is reminded with them', async () => {
    const due = (await w.now()) + 21 * day;
    const one = await sent('Away', ['oskar'], due);
    const [half = 0] = points(one);
    const from = half - 2 * hour;
    const absence = { id: randomUUID(), person: 'oskar', from, to: half + 3 * day, covers: [] };
    await w.ask('oskar', 'absences.save', absence);
    expect((await to(half + hour)).filter((line) => line.includes('reminder'))).toEqual([]);
    await w.ask('oskar', 'absences.end', { id: absence.id });
    // The time away does not count as time to respond: the point has moved on with it.
    const present = presenceOf(oslo.axis, [{ from, to: await w.now() }]);
    const [moved = 0, fifth = 0] = pointsOf(usualReminders, one.since, due, present);
    expect(moved).toBeGreaterThan(half);
    expect((await to(moved)).filter((line) => line.includes('reminder'))).toHaveLength(1);
    const covers = [{ by: 'yuki', verbs: 'all' as const, types: 'all' as const }];
    await w.ask('oskar', 'absences.save', {
      id: randomUUID(),
      person: 'oskar',
      from: fifth - hour,
      to: fifth + day,
      covers,
    });
    const told = (await to(fifth)).filter((line) => line.includes('reminder'));
    expect(told.map((line) => line.split(':')[0]).sort()).toEqual(['oskar', 'yuki']);
    await w.ask('ines', 'circulation.withdraw', { circulation: one.circulation, reason: 'over' });
  });

  it('follow the rule of the document type, and what a controller sets for one circulation', async () => {
    const type = (await w.ask('thea', 'register.types')).find(({ code }) => code === 'WI');
    const plan = { ...noReminders, left: [30] };
    const described = {
      type: 'WI',
      name: type?.name ?? '',
      scheme: type?.scheme ?? '',
      active: true,
      marginLine: false,
      added: false,
    };
    expect(await w.refused('thea', 'types.describe', { ...described, reminders: { ...plan, left: [30, 40] } })).toBe(
      'reminders-unfit',
    );
    await w.ask('thea', 'types.describe', { ...described, reminders: plan });
    const due = (await w.now()) + 14 * day;
    const one = await sent('By rule', ['oskar'], due, 'WI');
    const two = await sent('By hand', ['yuki'], due, 'WI');
    expect((await view(one.circulation)).reminders).toEqual(plan);
    expect(
      await w.refused('yuki', 'circulation.setReminders', { circulation: two.circulation, plan: noReminders }),
    ).toBe('not-allowed');
    await w.ask('ines', 'circulation.setReminders', { circulation: two.circulation, plan: noReminders });
    const [point = 0] = pointsOf(plan, one.since, due, oslo);
    expect(await to(point)).toEqual(['oskar: A reminder: please review By rule']);
    expect(await to(due + 3 * day)).toEqual([]);
  });
});
