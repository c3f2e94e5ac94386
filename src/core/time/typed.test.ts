import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dayText, typedDay, typedTime } from './typed';

const today = '2026-11-27';
const day = fc.date({ min: new Date('2000-01-01'), max: new Date('2099-12-31'), noInvalidDate: true });

describe('a day that is typed', () => {
  it('is read in each of the ways in which it is written', () => {
    fc.assert(
      fc.property(day, (date) => {
        const iso = date.toISOString().slice(0, 10);
        const [y, m, d] = [date.getUTCFullYear(), date.getUTCMonth() + 1, date.getUTCDate()];
        const two = String(y).slice(2);
        for (const text of [iso, dayText(iso), `${d}.${m}.${y}`, `${d}/${m}/${two}`, `${`0${d}`.slice(-2)}-${m}-${y}`])
          expect(typedDay(text, today), text).toBe(iso);
      }),
    );
  });

  it('is the next one where its year is left out', () => {
    expect(typedDay('27 Nov', today)).toBe('2026-11-27');
    expect(typedDay('26 November', today)).toBe('2027-11-26');
    expect(typedDay('1.12.', today)).toBe('2026-12-01');
    expect(typedDay('1.12', today)).toBe('2026-12-01');
    expect(typedDay('29 Feb', today)).toBe('2028-02-29');
    expect(typedDay('Friday, 4th Dec', today)).toBe('2026-12-04');
  });

  it('is none where there is no such day', () => {
    for (const text of ['', 'soon', '31 Feb 2027', '32.1.2027', '1.13.2027', '2027-02-30', '15 foo 2027', '1', '30.2'])
      expect(typedDay(text, today), text).toBeNull();
    fc.assert(
      fc.property(fc.string(), (text) => {
        const found = typedDay(text, today);
        if (found !== null) expect(new Date(`${found}T00:00:00Z`).toISOString().slice(0, 10)).toBe(found);
      }),
    );
  });
});

describe('a time that is typed', () => {
  it('is read with and without its minutes, and on the clock of twelve', () => {
    for (const [text, time] of [
      ['16', '16:00'],
      ['9:05', '09:05'],
      ['16.30', '16:30'],
      ['1630', '16:30'],
      ['4 pm', '16:00'],
      ['12 am', '00:00'],
      ['12:15pm', '12:15'],
      ['0', '00:00'],
    ] as const)
      expect(typedTime(text), text).toBe(time);
    for (const text of ['', '24', '12:60', '13 pm', '0 am', 'noon', '1:2']) expect(typedTime(text), text).toBeNull();
  });
});
