import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { drawsFrom, randomEdit, randomRoute, scenario, sentRun } from '../../../test/properties/arbitrary';
import { fork, route, stage } from '../../../test/properties/scene';
import { runsOf } from '../../../test/setting';
import type { Circulation } from '../circulation/run/state';
import { edited, findPart, firstAsked, slotAfter } from './edit';
import { copiesOf, emptySeries, partsOf, type Route, routeFaults, type Series, seatsOf, stagesOf } from './route';

const routeFrom = (seed: number, seats: number): Series => randomRoute(drawsFrom(seed), seats);
const ids = (plan: Series) => stagesOf(plan).map((own) => own.id);
const sorted = (plan: Series) => ids(plan).sort();
const seriesOf = (plan: Series) => partsOf(plan).filter((part) => part.kind === 'series');

describe('a change of a planned route', () => {
  it('leaves a route that is fit, without an empty branch, and loses no stage but what it removes', () => {
    fc.assert(
      fc.property(scenario, ({ seed, seats, steps }) => {
        let plan = routeFrom(seed, seats);
        let n = 0;
        const fresh = () => `n${++n}`;
        for (const own of steps.slice(0, 40)) {
          const edit = randomEdit(drawsFrom(own), plan, fresh);
          const next = edited(plan, edit);
          const faults = routeFaults(next).map((fault) => fault.code);
          expect(faults.filter((code) => code === 'duplicate-id' || code === 'rule-out-of-reach')).toEqual([]);
          expect(emptySeries(next)).toEqual([]);
          const found = edit.do === 'remove' ? findPart(plan, edit.part)?.part : null;
          const branch = edit.do === 'remove' && seriesOf(plan).find((part) => part.id === edit.part);
          const lost = found ? stagesOf(found) : branch ? stagesOf(branch) : [];
          const kept = sorted(plan).filter((id) => !lost.some((own) => own.id === id));
          expect(sorted(next).filter((id) => ids(plan).includes(id))).toEqual(kept);
          // A board stands by itself: it goes only when it is what is removed, or inside it.
          if (edit.do !== 'remove')
            expect(
              copiesOf(next)
                .map(({ id }) => id)
                .sort(),
            ).toEqual(
              copiesOf(plan)
                .map(({ id }) => id)
                .sort(),
            );
          if (edit.do === 'moveSeat')
            expect(
              seatsOf(next)
                .map(({ seat }) => seat.id)
                .sort(),
            ).toEqual(
              seatsOf(plan)
                .map(({ seat }) => seat.id)
                .sort(),
            );
          plan = next;
        }
      }),
      { numRuns: runsOf(200) },
    );
  });

  it('moves a part to the place that was meant, also within its own series', () => {
    const plan = route(
      stage('a', 'review', ['petra']),
      stage('b', 'review', ['petra']),
      stage('c', 'review', ['petra']),
    );
    const to = (part: string, at: number) => ids(edited(plan, { do: 'move', part, to: { series: 'root', at } }));
    expect(to('a', 2)).toEqual(['b', 'a', 'c']);
    expect(to('a', 3)).toEqual(['b', 'c', 'a']);
    expect(to('c', 0)).toEqual(['c', 'a', 'b']);
    expect(to('b', 1)).toEqual(['a', 'b', 'c']);
    expect(to('b', 2)).toEqual(['a', 'b', 'c']);
    const inside = route(fork({ kind: 'all' }, [stage('a', 'review', ['petra'])], [stage('b', 'review', ['oskar'])]));
    expect(edited(inside, { do: 'move', part: 'fork', to: { series: 'branch-0', at: 0 } })).toEqual(inside);
    // What leaves a branch empty dissolves it.
    expect(
      edited(inside, { do: 'move', part: 'a', to: { series: 'root', at: 0 } }).parts.map((part) => part.id),
    ).toEqual(['a', 'b']);
    expect(slotAfter(inside, 'a')).toEqual({ series: 'branch-0', at: 1 });
    expect(slotAfter(inside, null)).toEqual({ series: 'root', at: 1 });
  });

  it('gives the condition of a branch that stays alone to its stages', () => {
    const only = { kind: 'record', field: 'unit', is: 'is', value: 'contracts' } as const;
    const other = { kind: 'record', field: 'owner', is: 'is', value: 'rufus' } as const;
    const parallel = fork(
      { kind: 'all' },
      [stage('a', 'review', ['petra'])],
      [stage('b', 'review', ['oskar']), stage('c', 'review', ['noor'], { condition: other })],
    );
    const branches = parallel.branches.map((branch, i) => ({ ...branch, condition: i === 1 ? only : null }));
    const alone = edited(route({ ...parallel, branches }), { do: 'remove', part: 'branch-0' });
    expect(stagesOf(alone).map((own) => own.condition)).toEqual([only, { kind: 'all', of: [only, other] }]);
  });

  it('keeps a quorum within the people there are', () => {
    const plan = route(stage('a', 'review', ['petra', 'oskar', 'noor'], { rule: { kind: 'atLeast', k: 3 } }));
    const next = edited(plan, { do: 'removeSeat', seat: 'a-noor' });
    expect(stagesOf(next)[0]?.rule).toEqual({ kind: 'atLeast', k: 2 });
  });

  it('says beforehand exactly whom the engine asks when it is sent', () => {
    fc.assert(
      fc.property(scenario, ({ seed, seats }) => {
        const plan = routeFrom(seed, seats);
        const run = sentRun(plan).state as Circulation;
        const asked = [...run.seats.values()].filter((seat) => seat.status === 'asked').map((seat) => seat.planned);
        const held = (id: string) => run.stages.get(id)?.held !== null;
        // What was decided on entering, the engine wrote down; the referee reads it from there.
        const skipped = (part: Route) => (run.stages.get(part.id) ?? run.blocks.get(part.id))?.gone === 'skipped';
        const conditions = new Map(
          partsOf(plan).flatMap((part) => {
            if (part.kind === 'stage' && part.condition) return [[part.condition, !skipped(part)] as const];
            if (part.kind !== 'parallel') return [];
            return part.branches.flatMap((branch) =>
              branch.condition ? [[branch.condition, !skipped(branch.route)] as const] : [],
            );
          }),
        );
        // A stage of signatures waits for its places first.
        const said = firstAsked(plan, (condition) => conditions.get(condition) ?? true).filter(
          (one) => !held(one.stage.id),
        );
        const crowd = new Set(said.map(({ seat }) => seat.id));
        expect([...new Set(asked)].every((id) => crowd.has(id))).toBe(true);
        // One by one, a group of nobody but people who are there already asks nobody in its place.
        for (const { seat } of said)
          expect(asked.includes(seat.id) || run.seats.get(seat.id)?.gone === 'expanded').toBe(true);
      }),
      { numRuns: runsOf(300) },
    );
    expect(firstAsked({ kind: 'series', id: 'empty', parts: [] })).toEqual([]);
  });
});
