import { describe, expect, it } from 'vitest';
import { axisOf, usualCalendar } from './calendar';
import { addPresent, isPresent, nextPresent, presenceOf, presentBetween } from './presence';

const at = (text: string) => Date.parse(`${text}:00Z`);
const hour = 3_600_000;
const axis = axisOf(
  {
    ...usualCalendar,
    week: usualCalendar.week.map((hours) => (hours.length > 0 ? [{ from: 480, to: 960 }] : [])),
    holidays: [],
  },
  'UTC',
);
const span = (from: string, to: string) => ({ from: at(from), to: at(to) });
/** Away on Tuesday afternoon, and from Thursday morning up to the next Monday at ten. */
const here = presenceOf(axis, [
  span('2026-12-05T00:00', '2026-12-07T10:00'),
  span('2026-12-01T12:00', '2026-12-01T23:00'),
  span('2026-12-03T00:00', '2026-12-05T00:00'),
  span('2026-12-02T12:00', '2026-12-02T12:00'),
]);

describe('presence', () => {
  it('is a calendar without spans that lie in order and apart, in whatever order they were given', () => {
    expect(here.away).toEqual([
      span('2026-12-01T12:00', '2026-12-01T23:00'),
      span('2026-12-03T00:00', '2026-12-07T10:00'),
    ]);
    expect(
      presenceOf(axis, [span('2026-12-01T00:00', '2026-12-05T00:00'), span('2026-12-02T00:00', '2026-12-03T00:00')])
        .away,
    ).toEqual([span('2026-12-01T00:00', '2026-12-05T00:00')]);
    expect(presenceOf(axis, [span('2026-12-05T00:00', '2026-12-01T00:00')]).away).toEqual([]);
  });

  it('counts the working time between two instants in which somebody is there', () => {
    const hours = (from: string, to: string) => presentBetween(here, at(from), at(to)) / hour;
    expect(hours('2026-12-01T08:00', '2026-12-01T16:00')).toBe(4);
    expect(hours('2026-12-01T11:00', '2026-12-01T13:00')).toBe(1);
    expect(hours('2026-12-01T12:00', '2026-12-01T23:00')).toBe(0);
    expect(hours('2026-12-02T08:00', '2026-12-03T16:00')).toBe(8);
    expect(hours('2026-11-30T08:00', '2026-12-07T12:00')).toBe(8 + 4 + 8 + 2);
    expect(hours('2026-12-02T09:00', '2026-12-02T09:00')).toBe(0);
  });

  it('finds when so much has been worked', () => {
    const done = (from: string, hours: number) =>
      new Date(addPresent(here, at(from), hours * hour) ?? 0).toISOString().slice(0, 16);
    expect(done('2026-12-01T08:00', 4)).toBe('2026-12-01T12:00');
    expect(done('2026-12-01T08:00', 5)).toBe('2026-12-02T09:00');
    expect(done('2026-12-02T08:00', 8)).toBe('2026-12-02T16:00');
    expect(done('2026-12-02T08:00', 9)).toBe('2026-12-07T11:00');
    expect(done('2026-12-01T13:00', 1)).toBe('2026-12-02T09:00');
    expect(addPresent(here, at('2026-12-01T13:00'), 0)).toBe(at('2026-12-01T13:00'));
    expect(addPresent(here, at('2026-12-01T13:00'), -5)).toBe(at('2026-12-01T13:00'));
  });

  it('finds when somebody is there next, and knows whether they are', () => {
    const next = (from: string) => new Date(nextPresent(here, at(from)) ?? 0).toISOString().slice(0, 16);
    expect(next('2026-12-01T11:59')).toBe('2026-12-01T11:59');
    expect(next('2026-12-01T12:00')).toBe('2026-12-02T08:00');
    expect(next('2026-12-02T16:00')).toBe('2026-12-07T10:00');
    expect(next('2026-12-07T10:00')).toBe('2026-12-07T10:00');
    expect([isPresent(here, at('2026-12-01T11:59')), isPresent(here, at('2026-12-01T12:00'))]).toEqual([true, false]);
  });
});
