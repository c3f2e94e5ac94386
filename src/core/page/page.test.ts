import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Field, type FieldValue, fieldsMissing, inReadingOrder, lintFields, valueFaults } from './fields';
import { displayedSize, type PageGeometry, quarterTurn, toDisplayed, toUserSpace } from './geometry';

const page: fc.Arbitrary<PageGeometry> = fc.record({
  x: fc.integer({ min: -200, max: 200 }),
  y: fc.integer({ min: -200, max: 200 }),
  width: fc.integer({ min: 50, max: 2000 }),
  height: fc.integer({ min: 50, max: 2000 }),
  rotate: fc.constantFrom(0, 90, 180, 270),
  unit: fc.constantFrom(1, 1, 2.5),
});

describe('page geometry', () => {
  it('takes displayed points into user space and back, inside the crop box', () => {
    fc.assert(
      fc.property(
        page,
        fc.float({ min: 0, max: 1, noNaN: true }),
        fc.float({ min: 0, max: 1, noNaN: true }),
        (geometry, u, v) => {
          const shown = displayedSize(geometry);
          const point = { x: u * shown.width, y: v * shown.height };
          const user = toUserSpace(geometry, point);
          const back = toDisplayed(geometry, user);
          expect(back.x).toBeCloseTo(point.x, 6);
          expect(back.y).toBeCloseTo(point.y, 6);
          expect(user.x).toBeGreaterThanOrEqual(geometry.x - 1e-6);
          expect(user.x).toBeLessThanOrEqual(geometry.x + geometry.width + 1e-6);
          expect(user.y).toBeGreaterThanOrEqual(geometry.y - 1e-6);
          expect(user.y).toBeLessThanOrEqual(geometry.y + geometry.height + 1e-6);
        },
      ),
    );
  });

  it('counts turns in quarters, whatever a file says', () => {
    expect([-90, 450, 0, 271].map(quarterTurn)).toEqual([270, 90, 0, 270]);
  });
});

const field = (id: string, more: Partial<Field> = {}): Field => ({
  id,
  seat: 's1',
  file: 'f1',
  kind: 'signature',
  page: 0,
  x: 100,
  y: 100,
  width: 120,
  height: 40,
  needed: true,
  label: '',
  ...more,
});

describe('fields', () => {
  it('finds what is off the page, too small, in the way, or nobody’s', () => {
    const pages = [{ width: 595, height: 842 }];
    const seats = new Set(['s1', 's2']);
    expect(lintFields([field('a'), field('b', { y: 200, seat: 's2' })], pages, seats)).toEqual([]);
    expect(lintFields([field('a'), field('b', { x: 150 })], pages, seats)).toEqual([
      { code: 'overlap', field: 'a', other: 'b' },
    ]);
    expect(lintFields([field('a', { x: 500 })], pages, seats)).toEqual([{ code: 'off-page', field: 'a' }]);
    expect(lintFields([field('a', { page: 3 })], pages, seats)).toEqual([{ code: 'off-page', field: 'a' }]);
    expect(lintFields([field('a', { height: 4 })], pages, seats)).toEqual([{ code: 'too-small', field: 'a' }]);
    expect(lintFields([field('a', { seat: 'x' })], pages, seats)).toEqual([{ code: 'nobody', field: 'a' }]);
  });

  it('tells who has no signature field', () => {
    const fields = [field('a'), field('b', { seat: 's2', kind: 'date' }), field('c', { seat: 's3', needed: false })];
    expect(fieldsMissing(['s1', 's2', 's3'], fields)).toEqual(['s2', 's3']);
  });

  it('reads line by line, page by page', () => {
    const fields = [
      field('d', { page: 1, y: 10 }),
      field('c', { y: 300 }),
      field('b', { x: 300, y: 102 }),
      field('a', { x: 20, y: 100 }),
    ];
    expect(inReadingOrder(fields).map((p) => p.id)).toEqual(['a', 'b', 'c', 'd']);
  });

  it('takes exactly the values a seat owes', () => {
    const fields = [
      field('sig'),
      field('day', { kind: 'date' }),
      field('note', { kind: 'text', needed: false }),
      field('ok', { kind: 'tick' }),
      field('mail', { kind: 'email', needed: false }),
      field('signed', { kind: 'signedOn' }),
    ];
    const drawn: FieldValue = { kind: 'drawn', strokes: [[1, 1, 2, 2]], width: 10, height: 10 };
    const good = new Map<string, FieldValue>([
      ['sig', drawn],
      ['day', { kind: 'day', day: '2026-12-03' }],
      ['ok', { kind: 'ticked', ticked: true }],
    ]);
    expect(valueFaults(fields, good)).toEqual([]);
    const fault = (id: string, value: FieldValue | null) => {
      const values = new Map(good);
      if (value) values.set(id, value);
      else values.delete(id);
      return valueFaults(fields, values);
    };
    expect(fault('sig', null)).toEqual([{ field: 'sig', code: 'missing' }]);
    expect(fault('sig', { kind: 'drawn', strokes: [[1, 1]], width: 1, height: 1 })).toEqual([
      { field: 'sig', code: 'missing' },
    ]);
    expect(fault('sig', { kind: 'text', text: 'x' })).toEqual([{ field: 'sig', code: 'wrong-kind' }]);
    expect(fault('ok', { kind: 'ticked', ticked: false })).toEqual([{ field: 'ok', code: 'missing' }]);
    expect(fault('note', { kind: 'text', text: 'x'.repeat(501) })).toEqual([{ field: 'note', code: 'too-long' }]);
    // A date is a day that there is, whatever is typed; an address has the form of one; the day of signing is not theirs.
    expect(fault('day', { kind: 'text', text: 'next tuesday maybe' })).toEqual([{ field: 'day', code: 'wrong-kind' }]);
    for (const day of ['2026-02-30', '2026-13-01', 'next tuesday', '2026-1-1', '20261203'])
      expect(fault('day', { kind: 'day', day }), day).toEqual([{ field: 'day', code: 'not-a-day' }]);
    expect(fault('day', { kind: 'day', day: '2028-02-29' })).toEqual([]);
    expect(fault('mail', { kind: 'text', text: 'nobody' })).toEqual([{ field: 'mail', code: 'not-an-email' }]);
    expect(fault('mail', { kind: 'text', text: 'lotte@tessel.example' })).toEqual([]);
    expect(fault('signed', { kind: 'day', day: '2026-12-03' })).toEqual([{ field: 'signed', code: 'not-a-field' }]);
    expect(fault('other', { kind: 'text', text: 'x' })).toEqual([{ field: 'other', code: 'not-a-field' }]);
  });
});
