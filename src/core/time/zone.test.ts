import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { afterWorkingDays, dayIn, daysBetween, instantAtWall, isZone, momentIn, nearDay, wallClock } from './zone';

const zones = ['Europe/Oslo', 'America/St_Johns', 'Asia/Kathmandu', 'Pacific/Auckland', 'UTC'];
const now = Date.UTC(2026, 10, 24, 12);

describe('proposed times', () => {
  it('fall on working days at 16:00 of the zone, over a weekend and a change of the clock', () => {
    const friday = Date.UTC(2026, 10, 27, 9);
    const said = (zone: string, from: number, days: number) => wallClock(zone, afterWorkingDays(zone, from, days));
    expect(said('Europe/Oslo', friday, 1)).toBe('2026-11-30T16:00');
    expect(said('Europe/Oslo', friday, 5)).toBe('2026-12-04T16:00');
    expect(said('Europe/Oslo', Date.UTC(2026, 10, 28, 9), 1)).toBe('2026-11-30T16:00');
    expect(said('Europe/Oslo', Date.UTC(2026, 9, 23, 9), 2)).toBe('2026-10-27T16:00');
    expect(said('America/Denver', Date.UTC(2026, 10, 27, 3), 1)).toBe('2026-11-27T16:00');
  });
});

describe('times in a zone', () => {
  it('reads back the wall clock it shows, outside the repeated hour', () => {
    fc.assert(
      fc.property(fc.constantFrom(...zones), fc.integer({ min: 0, max: 2_000_000_000 }), (zone, minutes) => {
        const instant = minutes * 60_000;
        const read = instantAtWall(zone, wallClock(zone, instant)) as number;
        // In the repeated hour the earlier instant is meant; it shows the same wall clock.
        expect(wallClock(zone, read)).toBe(wallClock(zone, instant));
        expect(Math.abs(read - instant)).toBeLessThanOrEqual(3_600_000);
      }),
    );
  });

  it('says days as people do', () => {
    expect(dayIn('Europe/Oslo', Date.UTC(2026, 11, 3, 15), now)).toBe('Thu 3 Dec');
    expect(dayIn('Europe/Oslo', Date.UTC(2027, 0, 4, 15), now)).toBe('Mon 4 Jan 2027');
    expect(momentIn('Europe/Oslo', Date.UTC(2026, 11, 3, 15), now)).toBe('Thu 3 Dec, 16:00');
    expect(momentIn('Europe/Oslo', now + 3_600_000, now)).toBe('today, 14:00');
    expect(nearDay('Pacific/Auckland', now + 3_600_000, now)).toBe('today');
    expect(nearDay('Europe/Oslo', now + 12 * 3_600_000, now)).toBe('tomorrow');
    expect(daysBetween('Europe/Oslo', now, now - 24 * 3_600_000)).toBe(-1);
    expect(dayIn('Europe/Oslo', Date.UTC(2026, 8, 3, 15), now)).toBe('Thu 3 Sep');
  });

  it('knows zones, skipped times and nonsense', () => {
    expect(isZone('Europe/Oslo')).toBe(true);
    expect(isZone('Middle/Nowhere')).toBe(false);
    expect(instantAtWall('Europe/Oslo', '2026-03-29T02:30')).toBe(Date.UTC(2026, 2, 29, 1, 30));
    expect(instantAtWall('Europe/Oslo', 'next week')).toBeNull();
  });
});
