import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Drawing, layoutLine } from './layout';
import { type LineModel, lineInWords, lineOf } from './line';
import { preflight } from './preflight';
import { mapStages, needed, type Route, routeFaults, type Series, type Stage, seatsOf, stagesOf } from './route';

const seatIds = fc.integer({ min: 1, max: 14 });
let count = 0;
const stageOf = (n: number, order: Stage['order'], verb: Stage['verb']): Stage => ({
  kind: 'stage',
  id: `g${++count}`,
  verb,
  seats: Array.from({ length: n }, () => ({ id: `s${++count}`, who: { kind: 'person', person: `p${count % 9}` } })),
  order,
  rule: n > 2 ? { kind: 'atLeast', k: 2 } : { kind: 'all' },
  due: null,
  closes: null,
  onDecline: 'stop',
  delegate: true,
});
const stage = fc
  .tuple(
    seatIds,
    fc.constantFrom('together' as const, 'oneByOne' as const),
    fc.constantFrom('review' as const, 'approve' as const),
  )
  .map(([n, order, verb]) => stageOf(n, order, verb));
const { route } = fc.letrec<{ route: Series; part: Route }>((tie) => ({
  route: fc
    .array(tie('part'), { minLength: 1, maxLength: 4 })
    .map((parts) => ({ kind: 'series', id: `r${++count}`, parts })),
  part: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    stage,
    fc.array(tie('route'), { minLength: 2, maxLength: 3 }).map((branches) => ({
      kind: 'parallel' as const,
      id: `p${++count}`,
      name: '',
      join: { kind: 'all' as const },
      branches: branches.map((inner, i) => ({ name: `branch ${i}`, route: inner })),
    })),
  ),
}));

const everyPoint = (drawing: Drawing) => [
  ...drawing.ropes.flatMap((rope) => [rope.from, rope.to]),
  ...drawing.towers.map((tower) => tower.top),
  ...drawing.seats.flatMap((seat) => [seat.rope, seat.tile]),
  ...drawing.folded.map((fold) => fold.at),
  drawing.cabin,
];

describe('the line', () => {
  it('draws every stage once and every seat once or folds it, inside its space', () => {
    fc.assert(
      fc.property(route, fc.integer({ min: 320, max: 1400 }), (given, width) => {
        const model = lineOf(given, null, 0);
        const drawing = layoutLine(model, { width, density: 'large' });
        expect(drawing.ropes.map((rope) => rope.stage).sort()).toEqual(
          stagesOf(given)
            .map((s) => s.id)
            .sort(),
        );
        const shown = drawing.seats.length + drawing.folded.reduce((sum, fold) => sum + fold.count, 0);
        expect(shown).toBe(seatsOf(given).length);
        for (const point of everyPoint(drawing)) {
          expect(point.x).toBeGreaterThanOrEqual(0);
          expect(point.x).toBeLessThanOrEqual(width);
          expect(point.y).toBeGreaterThanOrEqual(0);
          expect(point.y).toBeLessThanOrEqual(drawing.height);
        }
        const small = layoutLine(model, { width: 132, density: 'tiny' });
        expect(small.height).toBe(22);
        expect(small.ropes.length).toBe(drawing.ropes.length);
      }),
    );
  });

  it('hangs no two tiles of a stage over one another, and one by one each lower than the one before', () => {
    fc.assert(
      fc.property(route, (given) => {
        const drawing = layoutLine(lineOf(given, null, 0), { width: 1400, density: 'large' });
        for (const { id, order } of stagesOf(given)) {
          const own = drawing.seats.filter((seat) => seat.stage === id);
          own.slice(1).forEach((seat, i) => {
            const before = own[i]?.tile ?? seat.tile;
            expect(Math.max(seat.tile.x - before.x, Math.abs(seat.tile.y - before.y))).toBeGreaterThan(10);
            if (order === 'oneByOne')
              expect(seat.tile.y - seat.rope.y).toBeGreaterThan(before.y - (own[i]?.rope.y ?? 0));
          });
        }
      }),
    );
  });

  it('says the same in words', () => {
    fc.assert(
      fc.property(route, (given) => {
        const words = lineInWords(lineOf(given, null, 0), {
          verb: (verb) => verb,
          person: (id) => `<${id}>`,
          seat: () => 'waits',
          order: () => '',
          branch: (name) => `[${name}]`,
        });
        expect(words.split(' waits').length - 1).toBe(seatsOf(given).length);
      }),
    );
  });

  it('docks the cabin at the first tower when nothing has begun and at the last when all is done', () => {
    const model: LineModel = lineOf({ kind: 'series', id: 'r', parts: [stageOf(2, 'together', 'review')] }, null, 0);
    expect(layoutLine(model, { width: 1000, density: 'large' }).cabin.x).toBe(40);
    expect(layoutLine({ ...model, ended: 'completed' }, { width: 1000, density: 'large' }).cabin.x).toBe(960);
  });
});

describe('a route', () => {
  const of = (...parts: Route[]): Series => ({ kind: 'series', id: 'root', parts });
  const check = (given: Series, more: Partial<Parameters<typeof preflight>[0]> = {}) =>
    preflight({ route: given, author: 'rufus', hasVersion: true, fields: [], now: 1000, ...more }).map((f) => [
      f.code,
      f.severity,
    ]);

  it('is refused for what cannot be walked', () => {
    const one = stageOf(3, 'together', 'approve');
    expect(routeFaults(of({ ...one, rule: { kind: 'atLeast', k: 4 } })).map((f) => f.code)).toEqual([
      'rule-out-of-reach',
    ]);
    expect(routeFaults(of(one, one)).map((f) => f.code)).toContain('duplicate-id');
    expect(routeFaults(of({ ...one, due: 5, closes: 4 })).map((f) => f.code)).toEqual(['closes-before-due']);
    const fork = (join: 'all' | 'any'): Route => ({
      kind: 'parallel',
      id: 'f',
      name: '',
      join: { kind: join },
      branches: [stageOf(1, 'together', 'sign'), stageOf(1, 'together', 'review')].map((s, i) => ({
        name: '',
        route: { kind: 'series', id: `b${i}`, parts: [s] },
      })),
    });
    expect(routeFaults(of(fork('any'))).map((f) => f.code)).toEqual(['sign-under-partial-join']);
    expect(routeFaults(of(fork('all')))).toEqual([]);
    expect(needed({ kind: 'any' }, 0)).toBe(0);
  });

  it('is checked before sending', () => {
    const named = (verb: Stage['verb'], ...people: string[]): Stage => ({
      ...stageOf(0, 'together', verb),
      seats: people.map((person, i) => ({ id: `${verb}${i}`, who: { kind: 'person', person } })),
    });
    expect(check(of())).toEqual([['no-stage', 'stops']]);
    expect(check(of(named('review')))).toEqual([['nobody', 'stops']]);
    expect(check(of(named('approve', 'rufus')))).toEqual([['author-decides', 'stops']]);
    expect(check(of(named('review', 'yuki', 'yuki')))).toEqual([['twice-in-stage', 'stops']]);
    expect(check(of(named('sign', 'benedikt')))).toEqual([['field-missing', 'warns']]);
    expect(check(of(named('review', 'yuki')), { hasVersion: false })).toEqual([['no-version', 'stops']]);
    expect(check(of({ ...named('review', 'yuki'), due: 900 }))).toEqual([['due-past', 'warns']]);
    expect(check(of({ ...named('review', 'yuki'), closes: 900 }))).toEqual([['closes-past', 'stops']]);
    expect(check(of(named('review', 'rufus', 'yuki')))).toEqual([]);
  });

  it('changes one stage and leaves the rest', () => {
    const a = stageOf(1, 'together', 'review');
    const b = stageOf(1, 'together', 'approve');
    expect(stagesOf(mapStages(of(a, b), (s) => (s.id === a.id ? null : s)))).toEqual([b]);
  });
});
