import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dayOfNumber, type Holiday } from '../time/calendar';
import { holidaysIn, holidaysOut } from './ics';

const now = Date.UTC(2026, 10, 27);
const event = (...lines: string[]) => ['BEGIN:VEVENT', 'UID:u1', 'SUMMARY:Day off', ...lines, 'END:VEVENT'];
const calendar = (...events: string[][]) =>
  ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:x', ...events.flat(), 'END:VCALENDAR', ''].join('\r\n');
const days = (text: string) => holidaysIn(text, now)?.holidays.map(({ day }) => day);
const why = (text: string) => holidaysIn(text, now)?.leftOut.map((one) => one.why);

describe('holidays as iCalendar', () => {
  it('are read back as they were written, in lines of 75 octets', () => {
    const holiday: fc.Arbitrary<Holiday> = fc.record({
      day: fc.integer({ min: 20_200, max: 22_500 }).map(dayOfNumber),
      name: fc
        .string({ unit: 'grapheme', maxLength: 60 })
        .map((text) => text.replace(/[\p{Cc}\p{Zl}\p{Zp}]+/gu, ' ').trim()),
    });
    fc.assert(
      fc.property(fc.uniqueArray(holiday, { selector: ({ day }) => day, maxLength: 30 }), (given) => {
        const sorted = [...given].sort((a, b) => (a.day < b.day ? -1 : 1));
        const text = holidaysOut('Oslo; quay, "south"', 'c1', sorted);
        for (const line of text.split('\r\n')) expect(new TextEncoder().encode(line).length).toBeLessThanOrEqual(75);
        expect(holidaysIn(text, now)?.holidays).toEqual(sorted);
      }),
    );
  });

  it('span days, up to the one before their end', () => {
    expect(days(calendar(event('DTSTART;VALUE=DATE:20261224', 'DTEND;VALUE=DATE:20261227')))).toEqual([
      '2026-12-24',
      '2026-12-25',
      '2026-12-26',
    ]);
    expect(days(calendar(event('DTSTART;VALUE=DATE:20261224', 'DTEND;VALUE=DATE:20261224')))).toEqual(['2026-12-24']);
    expect(why(calendar(event('DTSTART;VALUE=DATE:20260101', 'DTEND;VALUE=DATE:20261231')))).toEqual(['too-long']);
  });

  it('recur within the years around now, also by rules without an end', () => {
    const christmas = days(calendar(event('DTSTART;VALUE=DATE:20001225', 'RRULE:FREQ=YEARLY')));
    expect(christmas).toEqual([2025, 2026, 2027, 2028, 2029, 2030, 2031, 2032].map((year) => `${year}-12-25`));
    const thursday = days(
      calendar(event('DTSTART;VALUE=DATE:20251127', 'RRULE:FREQ=YEARLY;BYMONTH=11;BYDAY=4TH;UNTIL=20271231')),
    );
    expect(thursday).toEqual(['2025-11-27', '2026-11-26', '2027-11-25']);
    expect(
      days(
        calendar(
          event(
            'DTSTART;VALUE=DATE:20261201',
            'RRULE:FREQ=DAILY;COUNT=4',
            'EXDATE;VALUE=DATE:20261202',
            'RDATE;VALUE=DATE:20261220',
          ),
          event('RECURRENCE-ID;VALUE=DATE:20261203', 'DTSTART;VALUE=DATE:20261210'),
        ),
      ),
    ).toEqual(['2026-12-01', '2026-12-04', '2026-12-10', '2026-12-20']);
    const endless = holidaysIn(calendar(event('DTSTART;VALUE=DATE:20200101', 'RRULE:FREQ=DAILY')), now);
    expect(endless?.holidays.length).toBeLessThanOrEqual(2000);
    expect(endless?.leftOut.map((one) => one.why)).toEqual(['too-many']);
  });

  it('name what they cannot take, and guess nothing', () => {
    expect(why(calendar(event('DTSTART;TZID=Middle/Nowhere:20261224T120000')))).toEqual(['timed']);
    expect(why(calendar(event('DTSTART:20261224T120000Z')))).toEqual(['timed']);
    expect(why(calendar(event('DTSTART;VALUE=DATE:20260230')))).toEqual(['no-date']);
    expect(why(calendar(event('LOCATION:Low Quay')))).toEqual(['no-date']);
    expect(why(calendar(event('DTSTART;VALUE=DATE:20261224', 'RRULE:FREQ=HOURLY')))).toEqual(['rule-too-fine']);
    expect(days(calendar(event('DTSTART;VALUE=DATE:20261224', 'RRULE:FREQ=HOURLY')))).toEqual([]);
    for (const text of ['', 'BEGIN:VCARD\r\nEND:VCARD', 'hello', 'BEGIN:VCALENDAR'])
      expect(holidaysIn(text, now), text).toBeNull();
    expect(holidaysIn(`\uFEFF${calendar()}`, now)).toEqual({ holidays: [], leftOut: [] });
    fc.assert(
      fc.property(fc.string({ maxLength: 400 }), (text) => {
        expect(() => holidaysIn(text, now)).not.toThrow();
        expect(() => holidaysIn(calendar(event(...text.split('\n'))), now)).not.toThrow();
      }),
    );
  });

  it('cost what a year of holidays costs, whatever the file asks for', () => {
    const rule = (text: string, start = '00010101') => event(`DTSTART;VALUE=DATE:${start}`, `RRULE:${text}`);
    // Two daily rules of all eight years are more dates than a file may have; what is left is named, not counted on.
    const many = calendar(...Array.from({ length: 63 }, () => rule('FREQ=DAILY')));
    expect(why(many)?.filter((one) => one === 'too-many').length).toBeGreaterThanOrEqual(61);
    const empty = calendar(...Array.from({ length: 13 }, () => rule('FREQ=WEEKLY;BYMONTH=2;BYMONTHDAY=30')));
    expect(why(empty)).toEqual(['too-many']);
    expect(why(calendar(...Array.from({ length: 501 }, () => rule('FREQ=YEARLY', '20251224'))))).toEqual(['too-many']);
    expect(why(calendar(rule('FREQ=DAILY;COUNT=4001')))).toEqual(['too-many']);
    expect(why(calendar(rule('FREQ=DAILY;COUNT=4000', '20260101')))).toEqual(['too-many']);
    for (const part of ['BYHOUR=1', 'BYMINUTE=1', 'BYSECOND=1'])
      expect(why(calendar(rule(`FREQ=YEARLY;${part}`)))).toEqual(['rule-too-fine']);
    // Twelve that recur within the month are taken beside each other.
    expect(why(calendar(...Array.from({ length: 12 }, () => rule('FREQ=WEEKLY', '20261201'))))).toEqual([]);
  });

  it('of one date are one, called by the first', () => {
    const text = calendar(event('DTSTART;VALUE=DATE:20261224'), [
      'BEGIN:VEVENT',
      'UID:u2',
      'SUMMARY:Other',
      'DTSTART;VALUE=DATE:20261224',
      'END:VEVENT',
    ]);
    expect(holidaysIn(text, now)?.holidays).toEqual([{ day: '2026-12-24', name: 'Day off' }]);
  });
});
