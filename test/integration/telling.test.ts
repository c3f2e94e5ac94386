import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { type Preferences, usualPreferences } from '@/core/circulation/telling/preferences';
import { axisOf, usualCalendar } from '@/core/time/calendar';
import { nextPresent, presenceOf } from '@/core/time/presence';
import { nextDayBegins } from '@/core/time/zone';
import { inSeries, organization, stage, type World, world } from './world';

const day = 24 * 3_600_000;
const oslo = presenceOf(axisOf(usualCalendar, 'Europe/Oslo'), []);
let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});
beforeEach(async () => {
  await w.forward((nextPresent(oslo, (await w.now()) + day) ?? 0) - (await w.now()));
  await w.inOrganization(organization, (tx) => tx.sql`update session set expires = ${tx.now + 900 * day}`);
  await w.digests();
  for (const person of ['ines', 'rufus', 'benedikt', 'petra']) {
    await w.ask(person, 'told.prefer', { preferences: usualPreferences });
    await w.ask(person, 'told.putAway', { until: await w.now() });
  }
  w.mails.length = 0;
});

const prefers = (person: string, preferences: Partial<Preferences>) =>
  w.ask(person, 'told.prefer', { preferences: { ...usualPreferences, ...preferences } });
const told = async (person: string) => (await w.ask(person, 'told.list', { all: false })).rows.map(({ text }) => text);
const post = () => w.mails.splice(0).map((mail) => `${w.toOf(mail)}: ${mail.subject}`);

async function sent(title: string, people: readonly string[]) {
  const { circulation } = await w.sent(inSeries(stage('review', people), stage('approve', ['oskar'])), { title });
  w.mails.length = 0;
  return circulation;
}
const seatOf = async (circulation: string, person: string) => {
  const { seats } = await w.ask('ines', 'circulation.view', { circulation });
  const { id = '', epoch = 0, scope } = seats.find((one) => one.holder === person) ?? {};
  return { circulation, seat: id, epoch, scope: scope ?? '' };
};
async function respond(circulation: string, person: string, outcome: 'done' | 'returned' = 'done') {
  const note = outcome === 'done' ? null : 'The units are wrong.';
  await w.ask(person, 'seat.decideMine', { ...(await seatOf(circulation, person)), outcome, note });
  await w.work();
}

describe('what people are told', () => {
  it('is as they chose: responses on the Desk, by mail, or in one mail as the next working day begins', async () => {
    const circulation = await sent('Brake test', ['petra', 'yuki']);
    await respond(circulation, 'petra');
    expect(await told('ines')).toHaveLength(1);
    expect((await told('ines'))[0]).toMatch(/^Petra Novak .*“Brake test”/);
    expect(post()).toEqual([]);
    await prefers('ines', { response: ['mail', 'digest'], stage: ['digest'] });
    await respond(circulation, 'yuki');
    expect(post().sort()).toEqual(['ines: A response to Brake test', 'oskar: Please approve Brake test']);
    expect(await told('ines')).toHaveLength(1);

    const morning = nextPresent(oslo, nextDayBegins('Europe/Oslo', await w.now())) ?? 0;
    await w.forward(morning - 60_000 - (await w.now()));
    await w.digests();
    expect(post()).toEqual([]);
    await w.forward(60_000);
    await w.digests();
    const [digest, ...more] = w.mails.splice(0);
    expect(more).toEqual([]);
    expect(digest?.subject).toBe('2 things have happened');
    expect(digest?.text).toMatch(/Yuki Arden .*“Brake test”[\s\S]*The review of “Brake test” .* is complete/);
    expect(digest?.text).toContain(`http://localhost:3000/circulations/${circulation}`);
    await w.forward(3 * day);
    await w.digests();
    expect(post()).toEqual([]);
  });

  it('waits with a digest while somebody is away', async () => {
    await prefers('ines', { response: ['digest'], stage: [] });
    const circulation = await sent('Rope log', ['petra', 'yuki']);
    const now = await w.now();
    const back = nextPresent(oslo, now + 9 * day) ?? 0;
    await w.ask('ines', 'absences.save', { id: 'away', person: 'ines', from: now + 3_600_000, to: back, covers: [] });
    await respond(circulation, 'petra');
    await w.forward(5 * day);
    await w.digests();
    expect(post().filter((one) => one.includes('happened'))).toEqual([]);
    await w.forward(back - (await w.now()));
    await w.digests();
    expect(post().filter((one) => one.includes('happened'))).toEqual(['ines: One thing has happened']);
  });

  it('is everything of one circulation for whoever follows it and may see it, and only what needs them where they chose that', async () => {
    const circulation = await sent('Haul rope', ['petra', 'benedikt']);
    const scope = { circulation, level: 'everything' } as const;
    expect(await w.refused('thea', 'told.follow', scope)).toBe('not-found');
    await w.ask('rufus', 'told.follow', scope);
    expect(await w.ask('rufus', 'told.level', { circulation })).toBe('everything');
    await w.ask('ines', 'told.follow', { circulation, level: 'needed' });
    await w.ask('petra', 'circulation.see', await seatOf(circulation, 'petra'));
    await respond(circulation, 'petra');
    expect(await told('rufus')).toHaveLength(2);
    expect((await told('rufus')).at(-1)).toBe(`Petra Novak has opened “Haul rope” (${await numberOf(circulation)}).`);
    expect(await told('ines')).toEqual([]);
    expect(post()).toEqual([]);
    // What stops is told whatever one chose.
    await prefers('ines', { stopped: [] });
    await respond(circulation, 'benedikt', 'returned');
    expect(post()).toContain('ines: Returned for rework: Haul rope');
    await w.ask('rufus', 'told.follow', { circulation, level: 'usual' });
    expect(await w.ask('rufus', 'told.level', { circulation })).toBe('usual');
  });

  it('is told once though its job runs twice, in the words of then, and is one’s own to put away', async () => {
    const circulation = await sent('Tower light', ['petra', 'yuki']);
    await respond(circulation, 'petra');
    const [before] = (await w.ask('ines', 'told.list', { all: false })).rows;
    await w.inOrganization(
      organization,
      (tx) => tx.sql`update job set state = 'waiting', run_at = 0 where kind = 'mail' and id = ${before?.id ?? ''}`,
    );
    await w.ask('petra', 'session.describe', { name: 'Petra Lund', work: '', zone: 'Europe/Oslo' });
    await w.work();
    const { rows } = await w.ask('ines', 'told.list', { all: false });
    expect(rows).toEqual([before]);
    expect(before?.text).toContain('Petra Novak');
    await w.ask('rufus', 'told.putAway', { until: await w.now() });
    expect(await told('ines')).toHaveLength(1);
    await w.ask('ines', 'told.putAway', { until: before?.at ?? 0 });
    expect(await told('ines')).toEqual([]);
    expect((await w.ask('ines', 'told.list', { all: true })).rows[0]).toEqual({ ...before, read: true });
    await w.ask('petra', 'session.describe', { name: 'Petra Novak', work: '', zone: 'Europe/Oslo' });
  });

  it('is not that a page was opened, once its reader has decided faster than the page could say so', async () => {
    const circulation = await sent('Quick look', ['petra']);
    await respond(circulation, 'petra');
    const seat = await seatOf(circulation, 'oskar');
    await w.ask('oskar', 'seat.decideMine', { ...seat, outcome: 'approved', note: null });
    expect((await w.ask('ines', 'circulation.view', { circulation })).phase).toBe('finishing');
    const before = (await w.ask('ines', 'circulation.view', { circulation })).trail.length;
    await w.ask('oskar', 'circulation.see', seat);
    expect((await w.ask('ines', 'circulation.view', { circulation })).trail).toHaveLength(before);
  });

  it('is refused where it is no choice of ours', async () => {
    const { late: _, ...short } = usualPreferences;
    expect(await w.refused('ines', 'told.prefer', { preferences: short })).toBe('bad-input');
    const twice = { ...usualPreferences, late: ['mail', 'mail'] };
    expect(await w.refused('ines', 'told.prefer', { preferences: twice })).toBe('bad-input');
    expect(await w.ask('ines', 'told.preferences')).toEqual(usualPreferences);
  });
});

const numberOf = async (circulation: string) =>
  (await w.ask('ines', 'circulation.view', { circulation })).record.number;
