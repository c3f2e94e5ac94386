import { expect, it } from 'vitest';
import { axisOf, usualCalendar } from '../time/calendar';
import { presenceOf } from '../time/presence';
import type { Past, Turn } from './past';
import { samplesOf } from './samples';

const axis = axisOf({ ...usualCalendar, holidays: [] }, 'UTC');
const away = { from: Date.UTC(2026, 11, 1, 13), to: Date.UTC(2026, 11, 2) };
const presence = (who: string) => presenceOf(axis, who === 'oskar' ? [away] : []);
const at = (date: number, hour: number) => Date.UTC(2026, 11, date, hour);
const turn = (who: string, from: number, to: number | null, responded = to !== null): Turn => ({
  who,
  verb: 'review',
  from,
  to,
  responded,
});
const past = (turns: readonly Turn[], more: Partial<Past> = {}): Past => ({
  turns,
  returns: {},
  kept: { of: 1, among: 2 },
  withComments: { of: 0, among: 1 },
  reworks: [],
  releases: [],
  ...more,
});

it('turns become samples in the working time of whoever had them, with how many they had when each came', () => {
  const open = [turn('petra', at(1, 12), null)];
  const turns = [
    turn('petra', at(1, 9), at(1, 12)),
    turn('petra', at(1, 10), at(1, 14), false),
    turn('petra', at(1, 10), at(1, 11)),
    turn('oskar', at(1, 12), at(2, 10)),
  ];
  const { samples, happened } = samplesOf(
    [past(turns.slice(0, 2)), past(turns.slice(2), { returns: { review: { of: 1, among: 3 } } })],
    open,
    presence,
    at(1, 15),
  );
  expect(samples.map(({ who, minutes, open: had, done }) => [who, minutes / 60, had, done])).toEqual([
    ['petra', 3, 1, true],
    ['petra', 4, 3, false],
    ['petra', 1, 3, true],
    // Of those that had come by twelve two had gone, one of them at that instant.
    ['petra', 3, 2, false],
    ['oskar', expect.any(Number), 1, true],
  ]);
  const [whole] = samplesOf([past([turn('yuki', at(1, 12), at(2, 10))])], [], presence, at(3, 9)).samples;
  const oskar = samples.at(-1)?.minutes ?? 0;
  // Oskar is away in the afternoon.
  expect(oskar).toBeGreaterThan(60);
  expect(oskar).toBeLessThan(whole?.minutes ?? 0);
  expect(happened.kept).toEqual({ of: 2, among: 4 });
  expect(happened.withComments).toEqual({ of: 0, among: 2 });
  expect(happened.returns.review).toEqual({ of: 1, among: 3 });
});

it('reworks and releases are counted in the working time of whoever had them, never less than none', () => {
  const spans = [
    { who: 'petra', from: at(1, 9), to: at(1, 11) },
    { who: 'petra', from: at(1, 11), to: at(1, 9) },
  ];
  const { happened } = samplesOf([past([], { reworks: spans, releases: spans.slice(0, 1) })], [], presence, at(3, 9));
  expect(happened.reworks).toEqual([120, 0]);
  expect(happened.releases).toEqual([120]);
});
