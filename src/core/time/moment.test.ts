import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { runsOf } from '../../../test/setting';
import type { Time } from '../route/route';
import { durationText, type Now, saidTime } from './moment';
import { dayIn, timeIn, wallClock } from './zone';

// Friday, 27 November 2026, 11:20 in Oslo.
const now = Date.UTC(2026, 10, 27, 10, 20);
const at: Now = { now, zone: 'Europe/Oslo', usual: '16:00' };
const wall = (time: Time) =>
  time.kind === 'instant' ? wallClock(at.zone, time.at).replace('T', ' ') : durationText(time);
const said = (text: string) => {
  const found = saidTime(text, at);
  if (found.kind === 'time') return wall(found.time);
  return found.kind === 'unclear' ? found.options.map(wall).join(' or ') : null;
};

describe('a time as one says it', () => {
  it('is understood in each of these forms', () => {
    const forms: Readonly<Record<string, string>> = {
      'Fri 16:00': '2026-11-27 16:00',
      'fri 10': '2026-12-04 10:00',
      friday: '2026-11-27 16:00',
      'this friday': '2026-11-27 16:00',
      'Friday at 9:30': '2026-12-04 09:30',
      'Mon, 8.30': '2026-11-30 08:30',
      'monday 4 pm': '2026-11-30 16:00',
      '16:00 tue': '2026-12-01 16:00',
      'by Thursday noon': '2026-12-03 12:00',
      'coming wed': '2026-12-02 16:00',
      'monday week': '2026-12-07 16:00',
      today: '2026-11-27 16:00',
      'today 14': '2026-11-27 14:00',
      '14:00': '2026-11-27 14:00',
      'at 15:30': '2026-11-27 15:30',
      tomorrow: '2026-11-28 16:00',
      'tomorrow noon': '2026-11-28 12:00',
      'tomorrow 9 am': '2026-11-28 09:00',
      'the day after tomorrow': '2026-11-29 16:00',
      '3 Dec': '2026-12-03 16:00',
      '3 Dec 10:00': '2026-12-03 10:00',
      'Thu 3 Dec, 16:00': '2026-12-03 16:00',
      '3rd December 2026': '2026-12-03 16:00',
      '3.12.': '2026-12-03 16:00',
      '3.12.2026 9:15': '2026-12-03 09:15',
      '3/12': '2026-12-03 16:00',
      '2026-12-03': '2026-12-03 16:00',
      '2026-12-03 08:00': '2026-12-03 08:00',
      '26 Nov': '2027-11-26 16:00',
      'end of week': '2026-11-27 16:00',
      'end of next week': '2026-12-04 16:00',
      'end of the month': '2026-11-30 16:00',
      '5 working days': '5 working days',
      '5wd': '5 working days',
      'in five working days': '5 working days',
      'one working day': 'one working day',
      'within 3 business days': '3 working days',
      '0 working days': '0 working days',
      '4 working hours': '4 working hours',
      '4 h': '4 working hours',
      '3 days': '3 days',
      '10 calendar days': '10 days',
      'in 2 weeks': '14 days',
      'a week': '7 days',
    };
    for (const [text, expected] of Object.entries(forms)) expect(said(text), text).toBe(expected);
    expect(Object.keys(forms).length).toBeGreaterThan(40);
  });

  it('is asked back where it could be two, and never guessed where it is none', () => {
    expect(said('next friday')).toBe('2026-11-27 16:00 or 2026-12-04 16:00');
    expect(said('next monday')).toBe('2026-11-30 16:00');
    for (const text of [
      '',
      'soon',
      'when ready',
      '31 Feb',
      '25:00',
      '-3 days',
      '5000 working days',
      '0 days',
      'next',
      'foo 16:00',
      '5',
      '5 5 5',
    ])
      expect(said(text), text).toBeNull();
    fc.assert(
      fc.property(fc.string(), (text) => {
        expect(['time', 'unclear', 'none']).toContain(saidTime(text, at).kind);
      }),
    );
  });

  it('reads back whatever is said of an instant beside a field', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 300 * 1440 }), (minutes) => {
        const instant = now + minutes * 60_000;
        const found = saidTime(`${dayIn(at.zone, instant, now)}, ${timeIn(at.zone, instant)}`, at);
        expect(found).toEqual({ kind: 'time', time: { kind: 'instant', at: instant } });
      }),
      { numRuns: runsOf(300) },
    );
  });
});
