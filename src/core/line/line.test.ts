import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { drawsFrom, randomRoute, sentRun } from '../../../test/properties/arbitrary';
import { decide, fork, route as routeIn, stage as stageIn, state } from '../../../test/properties/scene';
import { expectMet, runsOf } from '../../../test/setting';
import type { SeatRun, StageRun } from '../circulation/run/shapes';
import { freshSeat, freshStage, partsOf, type Route, type Series, type Stage, seatsOf, stagesOf } from '../route/route';
import { tally } from '../route/tally';
import { compactLine, lineFrom } from './compact';
import { type Drawing, layoutLine } from './layout';
import { type LineModel, lineInWords, lineOf } from './line';

const seatIds = fc.integer({ min: 1, max: 14 });
let count = 0;
const stageOf = (n: number, order: Stage['order'], verb: Stage['verb']): Stage => ({
  ...freshStage(`g${++count}`, verb),
  seats: Array.from({ length: n }, () => freshSeat(`s${++count}`, { kind: 'person', person: `p${count % 9}` })),
  order,
  rule: n > 2 ? { kind: 'atLeast', k: 2 } : { kind: 'all' },
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
      branches: branches.map((inner, i) => ({ name: `branch ${i}`, condition: null, route: inner })),
    })),
  ),
}));

interface Box {
  readonly what: string;
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}

/** Every text of a drawing with the tiles, as the boxes they are written in: 13 above a baseline, 4 below, lines of 17. */
function textBoxes(drawing: Drawing): Box[] {
  const text = (what: string, { x, y, width }: { x: number; y: number; width: number }, lines = 1): Box => ({
    what,
    left: x,
    right: x + width,
    top: y - 12,
    bottom: y + 4 + (lines - 1) * 17,
  });
  return [
    ...drawing.labels.map((label) => text(`label ${label.stage}`, label, label.lines)),
    ...drawing.branches.map((branch) => text(`branch ${branch.branch}`, branch)),
    ...drawing.boards.map((board) => text(`board ${board.copies}`, board)),
    ...drawing.forks.map((fork) => text(`fork ${fork.stage}`, fork)),
    ...drawing.waits.map((wait) => text(`wait ${wait.stage}`, wait)),
    ...drawing.foldedBranches.map((fold) => text(`fold ${fold.parallel}`, fold)),
    ...drawing.seats.map(({ seat, tile }) => ({
      what: `tile ${seat.id}`,
      left: tile.x - 14,
      right: tile.x + 14,
      top: tile.y - 14,
      bottom: tile.y + 14,
    })),
  ];
}

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
        const spans = drawing.ropes.filter((rope) => rope.stage !== '' && !rope.slack);
        expect(spans.map((rope) => rope.stage).sort()).toEqual(
          stagesOf(given)
            .map((s) => s.id)
            .sort(),
        );
        const shown = drawing.seats.length + drawing.folded.reduce((sum, fold) => sum + fold.count, 0);
        if (drawing.foldedBranches.length === 0) expect(shown).toBe(seatsOf(given).length);
        for (const point of everyPoint(drawing)) {
          expect(point.x).toBeGreaterThanOrEqual(0);
          expect(point.x).toBeLessThanOrEqual(drawing.width);
          expect(point.y).toBeGreaterThanOrEqual(0);
          expect(point.y).toBeLessThanOrEqual(drawing.height);
        }
        const small = layoutLine(model, { width: 132, density: 'tiny' });
        expect(small.height).toBe(22);
        if (drawing.foldedBranches.length === 0)
          expect(small.ropes.length).toBe(drawing.ropes.filter((rope) => rope.stage !== '').length);
      }),
    );
  });

  it('makes spans as wide as they take, none narrower than it can be read in', () => {
    const ids = ['a', 'b', 'c'];
    const plan: Route = {
      kind: 'series',
      id: 'root',
      parts: ids.map((id) => ({
        ...freshStage(id, 'review', [freshSeat(`${id}1`, { kind: 'person', person: 'yuki' })]),
      })),
    };
    const widths = (spans?: ReadonlyMap<string, number>) =>
      layoutLine(lineOf(plan, null, 0), { width: 1088, density: 'large', ...(spans ? { spans } : {}) }).ropes.map(
        ({ from, to }) => Math.round(to.x - from.x),
      );
    expect(
      widths(
        new Map([
          ['a', 10],
          ['b', 20],
          ['c', 20],
        ]),
      ),
    ).toEqual([200, 400, 400]);
    expect(
      widths(
        new Map([
          ['a', 1],
          ['b', 20],
          ['c', 60],
        ]),
      ),
    ).toEqual([112, 222, 666]);
    // What has been passed by takes no time and keeps what it is read in.
    expect(widths(new Map([['b', 5]]))).toEqual([112, 776, 112]);
    expect(widths(new Map())).toEqual(widths());
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

  it('gives every text a box of its own, whatever is on the line and whatever of it is open', () => {
    const met = { boards: 0, forks: 0, waits: 0, foldedBranches: 0, open: 0 };
    fc.assert(
      fc.property(fc.nat(2 ** 30), fc.integer({ min: 1, max: 60 }), fc.boolean(), (seed, seats, opened) => {
        const many: Route = {
          kind: 'parallel',
          id: 'many',
          name: '',
          join: { kind: 'all' },
          branches: Array.from({ length: 3 + (seed % 6) }, (_, i) => ({
            name: `branch ${i}`,
            condition: null,
            route: { kind: 'series', id: `many-${i}`, parts: [stageOf(1 + ((seed + i) % 9), 'together', 'review')] },
          })),
        };
        const made = randomRoute(drawsFrom(seed), seats);
        const plan = seed % 3 === 0 ? { ...made, parts: [...made.parts, many] } : made;
        const model = lineOf(plan, null, 0);
        const open = new Set(opened ? partsOf(plan).map((part) => part.id) : []);
        // As wide as it is long, or not: every text keeps its box.
        const spans = new Map(stagesOf(plan).map(({ id }, i) => [id, (seed % (i + 7)) * 3]));
        const drawing = layoutLine(model, { width: 1232, density: 'large', open, ...(seed % 2 ? { spans } : {}) });
        for (const key of ['boards', 'forks', 'waits', 'foldedBranches'] as const) met[key] += drawing[key].length;
        if (opened) met.open += 1;
        const boxes = textBoxes(drawing);
        boxes.forEach((one, i) => {
          expect(one.right - one.left, one.what).toBeGreaterThanOrEqual(18);
          for (const other of boxes.slice(i + 1)) {
            const apart =
              one.right <= other.left || other.right <= one.left || one.bottom <= other.top || other.bottom <= one.top;
            if (!apart) throw new Error(`${one.what} and ${other.what}: ${JSON.stringify([one, other])}`);
          }
        });
        // What is open shows all of itself.
        if (opened) expect(drawing.seats.length).toBe(seatsOf(plan).length);
      }),
      { numRuns: runsOf(200) },
    );
    expectMet(met);
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
          copies: () => 'copies',
          somebody: () => 'somebody',
          condition: () => '?',
          waits: () => '',
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
    expect(layoutLine(model, { width: 1000, density: 'large' }).cabin.x).toBe(44);
    expect(layoutLine({ ...model, ended: 'completed' }, { width: 1000, density: 'large' }).cabin.x).toBe(956);
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
