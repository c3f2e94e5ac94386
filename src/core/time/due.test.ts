import { describe, expect, it } from 'vitest';
import type { Time } from '../route/route';
import { usualCalendar } from './calendar';
import { type Clock, plainClock, shifted, after as soLongAfter, timeFor, workingDays } from './due';

const hour = 3_600_000;
const at = (text: string) => Date.parse(text);
/** Whoever works Saturdays, too, where the organization does not; in Oslo. */
const saturdays = {
  ...usualCalendar,
  id: 's',
  week: usualCalendar.week.map((day, i) => (i === 5 ? [{ from: 480, to: 720 }] : day)),
};
const clock: Clock = { zone: 'Europe/Oslo', own: saturdays, common: usualCalendar };
const friday = at('2026-12-04T12:00:00Z');
const instant = (of: number): Time => ({ kind: 'instant', at: of });
const so = (amount: number, unit: 'workingDays' | 'workingHours' | 'days'): Time => ({ kind: 'after', amount, unit });

describe('so long after something', () => {
  it('is the end of a working date of the organization, on the person’s own clock and hours', () => {
    expect(soLongAfter(friday, { amount: 1, unit: 'workingDays' }, clock)).toBe(at('2026-12-07T15:00:00Z'));
    expect(soLongAfter(friday, { amount: 0, unit: 'workingDays' }, clock)).toBe(at('2026-12-04T15:00:00Z'));
    expect(soLongAfter(at('2026-12-04T16:00:00Z'), { amount: 0, unit: 'workingDays' }, clock)).toBe(
      at('2026-12-07T15:00:00Z'),
    );
  });

  it('is an hour of their own work, or the same wall clock later', () => {
    // Three hours are left on Friday, and Saturday is worked from eight.
    expect(soLongAfter(friday, { amount: 4, unit: 'workingHours' }, clock)).toBe(at('2026-12-05T08:00:00Z'));
    expect(soLongAfter(at('2026-10-24T12:00:00Z'), { amount: 1, unit: 'days' }, clock)).toBe(
      at('2026-10-25T13:00:00Z'),
    );
    expect(soLongAfter(at('2026-10-24T12:00:00Z'), { amount: 1, unit: 'days' }, plainClock)).toBe(
      at('2026-10-25T12:00:00Z'),
    );
  });

  it('is nothing where no calendar ever comes to it', () => {
    const never = { ...usualCalendar, id: 'n', week: usualCalendar.week.map(() => []) };
    expect(
      soLongAfter(friday, { amount: 1, unit: 'workingDays' }, { zone: 'UTC', own: never, common: never }),
    ).toBeNull();
    expect(
      soLongAfter(friday, { amount: 1, unit: 'workingHours' }, { zone: 'UTC', own: never, common: never }),
    ).toBeNull();
  });

  it('counts from being asked, and an instant is itself', () => {
    expect(timeFor(null, friday, clock)).toBeNull();
    expect(timeFor(instant(7), friday, clock)).toBe(7);
    expect(timeFor(so(1, 'days'), friday, clock)).toBe(friday + 24 * hour);
  });
});

describe('working days between two instants', () => {
  it('are the dates of the organization that end after the first, up to the second', () => {
    expect(workingDays(clock, friday, friday + hour)).toBe(0);
    expect(workingDays(clock, friday, at('2026-12-06T12:00:00Z'))).toBe(0);
    expect(workingDays(clock, friday, at('2026-12-08T06:00:00Z'))).toBe(2);
    expect(workingDays(clock, at('2026-12-08T06:00:00Z'), friday)).toBe(0);
    // By the person's own date: half past midnight in Oslo.
    expect(workingDays(clock, friday, at('2026-12-06T23:30:00Z'))).toBe(1);
  });
});

describe('a time after clocks have stood still', () => {
  const still = { from: friday, to: at('2026-12-07T07:30:00Z') };
  const due = at('2026-12-08T12:00:00Z');

  it('is later by plain time where it was an instant or counted in days', () => {
    for (const kind of [null, instant(due), so(2, 'days')])
      expect(shifted(due, kind, still, clock)).toBe(due + still.to - still.from);
    expect(shifted(due, null, { from: still.to, to: still.from }, clock)).toBe(due);
  });

  it('is later by their working time where it was counted in it', () => {
    // Three hours of Friday, four of Saturday, one of Monday: from Tuesday one o'clock to Wednesday noon.
    for (const kind of [so(2, 'workingDays'), so(9, 'workingHours')])
      expect(shifted(due, kind, still, clock)).toBe(at('2026-12-09T11:30:00Z'));
    expect(shifted(due, so(2, 'workingDays'), { from: friday, to: friday }, clock)).toBe(due);
  });
});
