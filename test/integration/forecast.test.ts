import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { leastHistory } from '@/core/forecast/model';
import { addWorking, axisOf, usualCalendar } from '@/core/time/calendar';
import { inSeries, organization, stage, type World, world } from './world';

const hour = 3_600_000;
const day = 24 * hour;
const oslo = axisOf(usualCalendar, 'Europe/Oslo');
let w: World;
beforeAll(async () => {
  w = await world();
});
afterAll(async () => {
  await w.close();
});

const view = (circulation: string, person = 'ines') => w.ask(person, 'circulation.view', { circulation });

async function sent(title: string, people: readonly string[], due: number | null = null) {
  const whole = { due: due === null ? null : ({ kind: 'instant', at: due } as const), closes: null };
  const route = inSeries(stage('review', people), stage('approve', ['benedikt']));
  return (await w.sent(route, { title, whole })).circulation;
}

/** A past in which everybody takes about so many hours, as circulations that have ended would have taught it. */
async function taught(hours: number, n: number) {
  await w.inOrganization(organization, async (tx) => {
    for (let i = 0; i < n; i += 1) {
      const turns = (['oskar', 'petra', 'yuki', 'benedikt'] as const).map((who, k) => {
        const from = tx.now - (20 + i) * day;
        const verb = who === 'benedikt' ? 'approve' : 'review';
        const work = hours * (0.4 + ((i * 7 + k * 3) % 13) / 10) * (who === 'yuki' ? 3 : 1);
        return { who, verb, from, to: addWorking(oslo, from, work * hour), responded: true };
      });
      const nothing = { of: 0, among: 4 };
      const past = {
        turns,
        returns: { review: nothing },
        kept: nothing,
        withComments: nothing,
        reworks: [],
        releases: [],
      };
      await tx.sql`
        insert into lesson (organization, circulation, ended, past)
        values (${organization}, ${randomUUID()}, ${tx.now - i * day}, ${tx.sql.json(past as never)})`;
    }
  });
}

describe('a forecast', () => {
  it('says nothing without a past, then when it will be done, how likely in time, and who decides that', async () => {
    const one = await sent('Rope', ['oskar', 'yuki'], (await w.now()) + 30 * day);
    await w.forecast();
    expect((await view(one)).forecast).toMatchObject({ missing: 'history', forecast: null });
    await taught(10, Math.ceil(leastHistory / 3));
    await w.forecast();
    const { forecast } = await view(one);
    const [half = 0, most = 0, nearly = 0] = forecast?.forecast?.dates ?? [];
    expect(half).toBeGreaterThan(await w.now());
    expect(most).toBeGreaterThanOrEqual(half);
    expect(nearly).toBeGreaterThanOrEqual(most);
    expect(forecast?.forecast?.chance).toBeGreaterThan(90);
    const seats = (await view(one)).seats;
    const slow = seats.find(({ holder }) => holder === 'yuki')?.id;
    const decides = forecast?.forecast?.decides ?? [];
    expect(decides.find(({ seat }) => seat === slow)?.percent).toBeGreaterThan(70);
    // Whoever does not steer it is told the date, and nothing of how long others take.
    const seen = (await view(one, 'oskar')).forecast;
    expect(seen?.forecast?.dates).toEqual(forecast?.forecast?.dates);
    expect([seen?.forecast?.decides, seen?.shift]).toEqual([[], null]);
    await w.ask('ines', 'circulation.withdraw', { circulation: one, reason: 'over' });
    expect((await view(one)).forecast).toBeNull();
  });

  it('follows every happening and every day, and says since yesterday why it moved', async () => {
    const one = await sent('Grip', ['oskar', 'yuki']);
    await w.forecast();
    const first = (await view(one)).forecast?.forecast;
    expect((await view(one)).forecast?.shift).toBeNull();
    await w.forward(4 * day);
    await w.inOrganization(organization, (tx) => tx.sql`update session set expires = ${tx.now + 90 * day}`);
    await w.forecast();
    const waited = (await view(one)).forecast;
    expect(waited?.forecast?.dates[1]).toBeGreaterThan(first?.dates[1] ?? 0);
    expect(waited?.shift?.from).toBe(first?.dates[1]);
    expect(waited?.shift?.to).toBe(waited?.forecast?.dates[1]);
    expect(waited?.shift?.causes.map(({ cause }) => cause.kind)).toContain('waited');
    // Somebody responds: the forecast is of before until the worker has made a new one.
    const { seats } = await view(one);
    const seat = seats.find(({ holder }) => holder === 'yuki');
    await w.ask('yuki', 'seat.decideMine', {
      circulation: one,
      seat: seat?.id ?? '',
      epoch: seat?.epoch ?? 0,
      scope: seat?.scope ?? '',
      outcome: 'done',
      note: null,
    });
    expect((await view(one)).forecast?.current).toBe(false);
    await w.forecast();
    const after = (await view(one)).forecast;
    expect(after?.current).toBe(true);
    expect(after?.forecast?.dates[1]).toBeLessThan(waited?.forecast?.dates[1] ?? 0);
    expect(after?.shift?.causes.map(({ cause }) => ('what' in cause ? cause.what : cause.kind))).toContain(
      'seat.decided',
    );
    // Somebody will be away.
    const until = (await w.now()) + 40 * day;
    const absence = { id: randomUUID(), person: 'benedikt', from: (await w.now()) + hour, to: until, covers: [] };
    await w.ask('benedikt', 'absences.save', absence);
    await w.forecast();
    const away = (await view(one)).forecast;
    expect(away?.forecast?.dates[0]).toBeGreaterThan(until - day);
    expect(away?.shift?.causes.map(({ cause }) => cause.kind)).toContain('away');
    await w.ask('ines', 'circulation.pause', { circulation: one, note: null });
    await w.forecast();
    expect((await view(one)).forecast).toMatchObject({ missing: 'paused', forecast: null });
  });

  it('learns from what has ended, and from what became of its dates', async () => {
    const one = await sent('Brake', ['oskar']);
    await w.forecast();
    const before = (await view(one)).forecast?.forecast;
    await w.forward(90 * day);
    await w.inOrganization(organization, (tx) => tx.sql`update session set expires = ${tx.now + 90 * day}`);
    await w.forecast();
    const [row] = await w.inOrganization(
      organization,
      (tx) => tx.sql<{ tracking: number[]; awaited: number; models: number }[]>`
        select tracking, (select count(*)::int from forecast where awaited) as awaited,
          (select count(*)::int from forecast_model) as models from forecast_experience`,
    );
    // Long past every date: later dates from now on, at each certainty.
    expect(row?.tracking.every((theta) => theta > 0)).toBe(true);
    expect(row?.awaited).toBe(0);
    expect(row?.models).toBe(1);
    expect(before).not.toBeNull();
    await w.ask('ines', 'circulation.withdraw', { circulation: one, reason: 'over' });
    await w.forecast();
    const lessons = await w.inOrganization(
      organization,
      (tx) => tx.sql`select past from lesson where circulation = ${one}`,
    );
    expect(lessons).toMatchObject([{ past: { turns: [{ who: 'oskar', verb: 'review', responded: false }] } }]);
  });
});
