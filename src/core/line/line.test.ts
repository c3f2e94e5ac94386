import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { sentRun } from '../../../test/properties/arbitrary';
import { decide, fork, route as routeIn, stage as stageIn, state } from '../../../test/properties/scene';
import type { SeatRun, StageRun } from '../circulation/state';
import { type Route, type Series, type Stage, seatsOf, stagesOf } from '../route/route';
import { tally } from '../route/tally';
import { compactLine, lineFrom } from './compact';
import { type Drawing, layoutLine } from './layout';
import { type LineModel, lineInWords, lineOf } from './line';

const seatIds = fc.integer({ min: 1, max: 14 });
let count = 0;
const stageOf = (n: number, order: Stage['order'], verb: Stage['verb']): Stage => ({
  kind: 'stage',
  id: `g${++count}`,
  verb,
  seats: Array.from({ length: n }, () => ({
    id: `s${++count}`,
    assignment: { kind: 'person', person: `p${count % 9}` },
    files: 'all',
  })),
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
        const words = {
          verb: (verb: string) => verb,
          person: (id: string) => `<${id}>`,
          seat: () => 'waits',
          seats: (_: unknown, count: number) => `${count} wait`,
          order: () => '',
          branch: (name: string) => `[${name}]`,
        };
        const model = lineOf(given, null, 0);
        expect(lineInWords(model, words).split(' waits').length - 1).toBe(seatsOf(given).length);
        // A row's line knows no people; it says how many.
        const counted = [...lineInWords(lineFrom(compactLine(model)), words).matchAll(/(\d+) wait/g)];
        expect(counted.reduce((sum, [, count]) => sum + Number(count), 0)).toBe(seatsOf(given).length);
      }),
    );
  });

  it('docks the cabin at the first tower when nothing has begun and at the last when all is done', () => {
    const model: LineModel = lineOf({ kind: 'series', id: 'r', parts: [stageOf(2, 'together', 'review')] }, null, 0);
    expect(layoutLine(model, { width: 1000, density: 'large' }).cabin.x).toBe(40);
    expect(layoutLine({ ...model, ended: 'completed' }, { width: 1000, density: 'large' }).cabin.x).toBe(960);
  });
});

describe('the model of the line', () => {
  const own = (person: string) => stageIn(person, 'review', [person]);

  it('says how far each stage and seat is, and counts quotas as the engine does', () => {
    const plan = routeIn(
      fork({ kind: 'any' }, [own('petra')], [own('oskar')]),
      stageIn('b', 'approve', ['yuki', 'noor', 'dalia'], { rule: { kind: 'atLeast', k: 2 } }),
      own('fenna'),
    );
    const run = sentRun(plan);
    decide(run, 'petra-petra', 'petra', 'done');
    decide(run, 'b-yuki', 'yuki', 'approved');
    decide(run, 'b-noor', 'noor', 'declined');
    const model = lineOf(plan, state(run), run.now);
    const [joined, second, last] = model.root.parts;
    if (joined?.kind !== 'parallel' || second?.kind !== 'stage' || last?.kind !== 'stage') throw new Error('not so');
    expect(joined.quota).toBe(1);
    expect(joined.branches.map(({ line }) => line.parts.map((part) => part.kind === 'stage' && part.status))).toEqual([
      ['done'],
      ['passedBy'],
    ]);
    expect(second).toMatchObject({ quota: 2, status: 'underWay', stopped: false });
    expect(second.seats.map((seat) => [seat.status, seat.mark])).toEqual([
      ['done', 'tick'],
      ['underWay', 'cross'],
      ['underWay', 'none'],
    ]);
    expect(last.seats.map((seat) => seat.status)).toEqual(['ahead']);
    expect(model.ended).toBe('no');
    expect(tally({ kind: 'any' }, ['open', 'open'], 'branches').needed).toBe(1);
  });

  it('leaves out what is gone from the route', () => {
    const run = sentRun(routeIn(stageIn('a', 'review', ['petra', 'oskar']), own('fenna')));
    const seats = new Map(state(run).seats);
    const stages = new Map(state(run).stages);
    for (const id of ['a-petra']) seats.set(id, { ...(seats.get(id) as SeatRun), gone: 'removed' });
    stages.set('fenna', { ...(stages.get('fenna') as StageRun), gone: 'skipped' });
    const { root } = lineOf(state(run).plan, { ...state(run), seats, stages }, run.now);
    expect(root.parts.map((part) => part.kind === 'stage' && part.seats.map((seat) => seat.person))).toEqual([
      ['oskar'],
    ]);
  });

  it('marks who is late only after the due time', () => {
    const run = sentRun(routeIn(stageIn('a', 'review', ['petra'], { due: Date.UTC(2026, 10, 3) })));
    const mark = (now: number) => {
      const [part] = lineOf(state(run).plan, state(run), now).root.parts;
      return part?.kind === 'stage' ? part.seats[0]?.mark : null;
    };
    expect(mark(Date.UTC(2026, 10, 3))).toBe('none');
    expect(mark(Date.UTC(2026, 10, 3) + 1)).toBe('late');
  });
});
