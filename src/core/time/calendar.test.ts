import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { begin, calendarDrawn as calendar, count, wall, worked, zones } from '../../../test/properties/minutes';
import { runsOf } from '../../../test/setting';
import {
  addDays,
  addWorking,
  axisOf,
  type Calendar,
  calendarFault,
  dayOfNumber,
  endOfWorkingDay,
  type Hours,
  isWorking,
  minute,
  nextWorking,
  usualCalendar,
  workingBetween,
} from './calendar';

describe('working time', () => {
  it('is what counting every minute over two years in six zones gives', () => {
    let asked = 0;
    fc.assert(
      fc.property(
        calendar,
        fc.constantFrom(...zones),
        fc.array(fc.tuple(fc.integer({ min: 30_000, max: count - 30_000 }), fc.integer({ min: 0, max: 9000 })), {
          minLength: 60,
          maxLength: 60,
        }),
        (given, zone, queries) => {
          const axis = axisOf(given, zone);
          const counted = worked(given, zone);
          const sums = new Int32Array(count + 1);
          for (let i = 0; i < count; i += 1) sums[i + 1] = (sums[i] as number) + (counted[i] as number);
          for (const [i, more] of queries) {
            asked += 1;
            const at = begin + i * minute;
            const j = Math.min(count - 1, i + more * 4);
            expect(workingBetween(axis, at, begin + j * minute)).toBe(
              ((sums[j] as number) - (sums[i] as number)) * minute,
            );
            expect(isWorking(axis, at)).toBe(counted[i] === 1);
            // The first minute behind which so much has been worked.
            const target = (sums[i] as number) + 1 + (more % 3000);
            let end = i;
            while (end < count && (sums[end] as number) < target) end += 1;
            if (end < count)
              expect(addWorking(axis, at, (1 + (more % 3000)) * minute), dayOfNumber(at / 86_400_000)).toBe(
                begin + end * minute,
              );
            let next = i;
            while (next < count && counted[next] === 0) next += 1;
            if (next < count) expect(nextWorking(axis, at)).toBe(begin + next * minute);
          }
        },
      ),
      { numRuns: runsOf(40) },
    );
    expect(asked).toBe(runsOf(40) * 60);
  });

  it('ends the n-th working date where the last worked minute of that date ends', () => {
    fc.assert(
      fc.property(
        calendar,
        calendar,
        fc.constantFrom(...zones),
        fc.integer({ min: 30_000, max: count - 135_000 }),
        fc.integer({ min: 0, max: 12 }),
        (own, common, zone, i, n) => {
          const days = wall(zone).day;
          const [mine, theirs] = [worked(own, zone), worked(common, zone)];
          const dates = new Map<number, { own: number; common: number }>();
          for (let q = i - 3000; q < i + 130_000; q += 1) {
            const entry = dates.get(days[q] as number) ?? { own: -1, common: -1 };
            if (mine[q]) entry.own = q;
            if (theirs[q]) entry.common = q;
            dates.set(days[q] as number, entry);
          }
          const at = begin + i * minute;
          const today = days[i] as number;
          let left = Math.max(1, n);
          let expected: number | null = null;
          for (const [date, { own: last, common: shared }] of dates) {
            if (date < today || (n > 0 && date === today) || shared < 0) continue;
            const end = begin + ((last >= 0 ? last : shared) + 1) * minute;
            if (end <= at) continue;
            left -= 1;
            if (left === 0) {
              expected = end;
              break;
            }
          }
          if (expected !== null) expect(endOfWorkingDay(axisOf(own, zone), common, at, n)).toBe(expected);
        },
      ),
      { numRuns: runsOf(60) },
    );
  });

  it('says the same whichever years were asked for before', () => {
    const one = axisOf({ ...usualCalendar }, 'Europe/Oslo');
    const other = axisOf({ ...usualCalendar }, 'Europe/Oslo');
    workingBetween(other, Date.UTC(1999, 1, 1), Date.UTC(2040, 1, 1));
    for (let i = 0; i < 50; i += 1) {
      const at = Date.UTC(2026, i % 12, 1 + i, i % 24);
      expect(addWorking(one, at, 100 * 3_600_000)).toBe(addWorking(other, at, 100 * 3_600_000));
      expect(endOfWorkingDay(one, usualCalendar, at, i)).toBe(endOfWorkingDay(other, usualCalendar, at, i));
    }
    expect(addWorking(one, Date.UTC(2026, 0, 5), 6 * 366 * 8.5 * 3_600_000)).toBeGreaterThan(Date.UTC(2033, 0, 1));
  });

  it('counts dates, not hours: however late on Friday it is asked, one working day is Monday’s end', () => {
    const oslo = axisOf(usualCalendar, 'Europe/Oslo');
    const on = (d: number, h: number, m = 0) => Date.UTC(2026, 10, d, h - 1, m);
    expect(endOfWorkingDay(oslo, usualCalendar, on(27, 7), 1)).toBe(on(30, 16));
    expect(endOfWorkingDay(oslo, usualCalendar, on(27, 23), 1)).toBe(on(30, 16));
    expect(endOfWorkingDay(oslo, usualCalendar, on(27, 15, 59), 0)).toBe(on(27, 16));
    expect(endOfWorkingDay(oslo, usualCalendar, on(27, 16), 0)).toBe(on(30, 16));
    const crew = {
      ...usualCalendar,
      week: usualCalendar.week.map((own, i) => (i === 5 ? [{ from: 450, to: 720 }] : own)),
    };
    expect(endOfWorkingDay(axisOf(crew, 'Europe/Oslo'), crew, on(27, 9), 1)).toBe(on(28, 12));
    // The dates are the common ones, the end of each is one’s own.
    const short = {
      ...usualCalendar,
      week: usualCalendar.week.map((own, i) => (i === 0 ? [{ from: 450, to: 600 }] : own)),
    };
    expect(endOfWorkingDay(axisOf(short, 'Europe/Oslo'), crew, on(27, 9), 2)).toBe(on(30, 10));
    expect(endOfWorkingDay(axisOf(short, 'Europe/Oslo'), crew, on(27, 9), 1)).toBe(on(28, 12));
  });

  it('keeps the wall clock over a change of it', () => {
    expect(addDays('Europe/Oslo', Date.UTC(2026, 9, 24, 10), 1)).toBe(Date.UTC(2026, 9, 25, 11));
    expect(addDays('Europe/Oslo', Date.UTC(2026, 2, 28, 1, 30), 1)).toBe(Date.UTC(2026, 2, 29, 1, 30));
  });

  it('gives up where a calendar hardly ever works, instead of counting for ever', () => {
    const once: Calendar = { ...usualCalendar, week: usualCalendar.week.map(() => []) };
    expect(addWorking(axisOf(once, 'UTC'), Date.UTC(2026, 0, 1), 1)).toBeNull();
    expect(nextWorking(axisOf(once, 'UTC'), Date.UTC(2026, 0, 1))).toBeNull();
    expect(endOfWorkingDay(axisOf(once, 'UTC'), once, Date.UTC(2026, 0, 1), 1)).toBeNull();
  });

  it('refuses a calendar that is none', () => {
    const fault = (week: readonly (readonly Hours[])[], holidays: string[] = []) =>
      calendarFault({ week, holidays: holidays.map((one) => ({ day: one, name: '' })) });
    const { week } = usualCalendar;
    const monday = (...own: Hours[]) => [own, ...week.slice(1)];
    expect(fault(week, ['2026-12-25', '2028-02-29'])).toBeNull();
    expect(fault(monday({ from: 0, to: 1440 }))).toBeNull();
    expect(fault(monday({ from: 60, to: 120 }, { from: 120, to: 180 }))).toBeNull();
    for (const bad of [
      [{ from: 60, to: 60 }],
      [{ from: -1, to: 60 }],
      [{ from: 60, to: 1441 }],
      [{ from: 1.5, to: 60 }],
    ])
      expect(fault(monday(...bad))).toBe('week-unfit');
    expect(fault(monday({ from: 60, to: 120 }, { from: 100, to: 180 }))).toBe('week-unfit');
    expect(fault(week.slice(1))).toBe('week-unfit');
    expect(fault(week.map(() => []))).toBe('never-works');
    for (const bad of ['2026-02-30', '2026-13-01', '26-01-01', 'Christmas'])
      expect(fault(week, [bad])).toBe('holiday-unfit');
  });
});
