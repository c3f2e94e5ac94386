import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { begin, calendarDrawn, count, worked, zones } from '../../../test/properties/minutes';
import { expectMet, runsOf } from '../../../test/setting';
import { axisOf, minute, usualCalendar } from './calendar';
import { isPresent, type Presence, presenceOf, presentBetween, type Span } from './presence';
import {
  type Notice,
  nextNotice,
  noReminders,
  pointsOf,
  type ReminderPlan,
  type Silence,
  usualReminders,
  workOfDay,
} from './reminders';

// Referee: every minute of two years, counted one by one, without those in which somebody is away.

const spans = fc
  .array(fc.tuple(fc.integer({ min: 40_000, max: count - 80_000 }), fc.integer({ min: 1, max: 20_000 })), {
    maxLength: 3,
  })
  .map((list): Span[] => list.map(([i, n]) => ({ from: begin + i * minute, to: begin + (i + n) * minute })));

const someone = fc.record({ calendar: calendarDrawn, zone: fc.constantFrom(...zones), away: spans }).map((given) => {
  const counted = worked(given.calendar, given.zone).slice();
  for (const { from, to } of given.away) counted.fill(0, (from - begin) / minute, (to - begin) / minute);
  const sums = new Int32Array(count + 1);
  for (let i = 0; i < count; i += 1) sums[i + 1] = (sums[i] as number) + (counted[i] as number);
  const presence = presenceOf(axisOf(given.calendar, given.zone), given.away);
  return { presence, works: (at: number) => counted[Math.floor((at - begin) / minute)] === 1, sums };
});
const plan: fc.Arbitrary<ReminderPlan> = fc.record({
  left: fc.uniqueArray(fc.integer({ min: 1, max: 99 }), { maxLength: 5 }).map((shares) => shares.sort((a, b) => b - a)),
  lastMorning: fc.boolean(),
  controller: fc.boolean(),
  third: fc.option(fc.record({ person: fc.constant('x'), days: fc.integer({ min: 0, max: 3 }) }), { nil: null }),
});

/** Runs a plan: a worker that looks at these instants sends what is due then. */
function sent(
  own: ReminderPlan,
  since: number,
  due: number,
  people: { readonly holder: Presence; readonly controller: Presence; readonly third: Presence | null },
  looks: readonly number[],
): { readonly now: number; readonly notice: Notice }[] {
  const out: { now: number; notice: Notice }[] = [];
  let silence: Silence = { since, due, reminded: [], controllerTold: false, thirdTold: false };
  for (const now of looks) {
    const notice = nextNotice(own, silence, people, now);
    if (!notice || notice.at > now) continue;
    out.push({ now, notice });
    silence = {
      ...silence,
      reminded: notice.to === 'holder' ? [...silence.reminded, notice.point] : silence.reminded,
      controllerTold: silence.controllerTold || notice.to === 'controller',
      thirdTold: silence.thirdTold || notice.to === 'third',
    };
  }
  return out;
}

describe('reminders', () => {
  it('go out in working hours only, never twice, and after the due time to those who are told then', () => {
    let reminders = 0;
    let told = 0;
    fc.assert(
      fc.property(
        someone,
        someone,
        plan,
        fc.integer({ min: 40_000, max: count - 120_000 }),
        fc.integer({ min: 30, max: 40_000 }),
        fc.array(fc.integer({ min: 1, max: 900 }), { minLength: 250, maxLength: 250 }),
        (holder, controller, own, i, length, steps) => {
          const since = begin + i * minute;
          const due = since + length * minute;
          let at = since;
          const looks = steps.map((step) => {
            at += step * minute;
            return at;
          });
          const people = { holder: holder.presence, controller: controller.presence, third: holder.presence };
          const out = sent(own, since, due, people, looks);
          const points = out.flatMap(({ notice }) => (notice.to === 'holder' ? [notice.point] : []));
          expect(new Set(points).size).toBe(points.length);
          expect(points).toEqual([...points].sort((a, b) => a - b));
          expect(out.filter(({ notice }) => notice.to === 'controller').length).toBeLessThanOrEqual(
            own.controller ? 1 : 0,
          );
          expect(out.filter(({ notice }) => notice.to === 'third').length).toBeLessThanOrEqual(own.third ? 1 : 0);
          for (const { now, notice } of out) {
            const who = notice.to === 'controller' ? controller : holder;
            expect(who.works(now), `${notice.to} at ${new Date(now).toISOString()}`).toBe(true);
            expect(notice.point).toBeLessThanOrEqual(now);
            expect(Number.isInteger(notice.point)).toBe(true);
            if (notice.to === 'holder') expect(now).toBeLessThan(due);
            else expect(now).toBeGreaterThanOrEqual(due);
          }
          reminders += points.length;
          told += out.length - points.length;
        },
      ),
      { numRuns: runsOf(25) },
    );
    expectMet({ reminders, told }, 3);
  });

  it('come when the share of working time is left that the plan names, however the clock and absences lie', () => {
    fc.assert(
      fc.property(
        someone,
        fc.integer({ min: 1, max: 99 }),
        fc.integer({ min: 40_000, max: count - 120_000 }),
        fc.integer({ min: 600, max: 40_000 }),
        ({ presence, sums }, left, i, length) => {
          const [since, due] = [begin + i * minute, begin + (i + length) * minute];
          const all = (sums[i + length] as number) - (sums[i] as number);
          expect(presentBetween(presence, since, due)).toBe(all * minute);
          const [point] = pointsOf({ ...noReminders, left: [left] }, since, due, presence);
          if (point === undefined) {
            expect(all * (100 - left)).toBeLessThanOrEqual(all * 100);
            return;
          }
          // So many minutes have been worked when it comes, and not one more.
          const done = (all * (100 - left)) / 100;
          const j = (point - begin) / minute;
          const upTo = (k: number) => (sums[k] as number) - (sums[i] as number);
          expect(upTo(Math.ceil(j))).toBeGreaterThanOrEqual(Math.floor(done));
          expect(upTo(Math.floor(j))).toBeLessThanOrEqual(Math.ceil(done));
        },
      ),
      { numRuns: runsOf(30) },
    );
  });

  const oslo = presenceOf(axisOf(usualCalendar, 'Europe/Oslo'), []);
  const at = (text: string) => Date.parse(`${text}+01:00`);
  const silence = (more: Partial<Silence> = {}): Silence => ({
    since: at('2026-11-16T09:00'),
    due: at('2026-11-27T16:00'),
    reminded: [],
    controllerTold: false,
    thirdTold: false,
    ...more,
  });
  const people = { holder: oslo, controller: oslo, third: oslo };

  it('follow the plan: a half, a fifth, the last morning; then the controller, then somebody else', () => {
    const own = { ...usualReminders, third: { person: 'thea', days: 2 } };
    const { since, due } = silence();
    const points = pointsOf(own, since, due, oslo);
    expect(points.map((point) => new Date(point).toISOString())).toEqual([
      '2026-11-23T07:15:00.000Z',
      '2026-11-26T06:48:00.000Z',
      '2026-11-27T06:30:00.000Z',
    ]);
    const looks = Array.from({ length: 20 * 1440 }, (_, n) => since + n * minute);
    expect(
      sent(own, since, due, people, looks).map(({ now, notice }) => [notice.to, new Date(now).toISOString()]),
    ).toEqual([
      ['holder', '2026-11-23T07:15:00.000Z'],
      ['holder', '2026-11-26T06:48:00.000Z'],
      ['holder', '2026-11-27T06:30:00.000Z'],
      ['controller', '2026-11-30T06:30:00.000Z'],
      ['third', '2026-12-02T06:30:00.000Z'],
    ]);
  });

  it('that were missed in an outage are one, for the last that has passed', () => {
    const { since, due } = silence();
    const out = sent(usualReminders, since, due, people, [
      at('2026-11-26T20:00'),
      at('2026-11-27T07:25'),
      at('2026-11-27T07:31'),
    ]);
    expect(out.map(({ notice }) => new Date(notice.point).toISOString())).toEqual(['2026-11-27T06:30:00.000Z']);
    // Once it is late nobody is reminded of what was missed: the controller is told.
    const late = sent(usualReminders, since, due, people, [due, due + 100 * minute]);
    expect(late.map(({ notice }) => notice.to)).toEqual([]);
    expect(nextNotice(usualReminders, silence(), people, due)).toMatchObject({
      to: 'controller',
      at: at('2026-11-30T07:30'),
    });
  });

  it('are not repeated shortly after somebody reminded by hand, and begin anew with other times', () => {
    const hand = at('2026-11-23T07:40');
    const next = nextNotice(usualReminders, silence({ reminded: [hand] }), people, hand + minute);
    expect(new Date(next?.point ?? 0).toISOString()).toBe('2026-11-26T06:48:00.000Z');
    const extended = silence({ reminded: [at('2026-11-23T08:15')], due: at('2026-12-11T16:00') });
    expect(nextNotice(usualReminders, extended, people, at('2026-11-23T09:00'))?.at).toBeGreaterThan(
      at('2026-11-25T00:00'),
    );
  });

  it('close together become one, and none comes where the plan wants none or there is no time for it', () => {
    const short = silence({ since: at('2026-11-16T09:00'), due: at('2026-11-16T16:00') });
    expect(pointsOf(usualReminders, short.since, short.due, oslo)).toEqual([at('2026-11-16T12:30')]);
    expect(pointsOf(usualReminders, short.due, short.due, oslo)).toEqual([]);
    expect(nextNotice(noReminders, silence(), people, at('2026-12-09T09:00'))).toBeNull();
    expect(workOfDay(usualCalendar)).toBe(510 * minute);
    const away = presenceOf(oslo.axis, [{ from: at('2026-11-01T00:00'), to: at('2026-12-24T00:00') }]);
    expect(isPresent(away, at('2026-11-16T09:00'))).toBe(false);
    expect(pointsOf(usualReminders, short.since, short.due, away)).toEqual([]);
  });
});
