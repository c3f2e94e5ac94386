import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { drawsFrom, randomRoute, scenario, sentRun } from '../../../test/properties/arbitrary';
import type { Circulation } from '../circulation/state';
import { firstAsked, insertAfter, moveStage } from './edit';
import { type Route, routeFaults, type Series, type Stage, stagesOf } from './route';

const fresh: Stage = {
  kind: 'stage',
  id: 'fresh',
  verb: 'read',
  seats: [],
  order: 'together',
  rule: { kind: 'all' },
  due: null,
  closes: null,
  onDecline: 'stop',
  delegate: true,
};

/** For each series of a route, by id, the ids of its parts. */
function shape(route: Route, into: Map<string, string[]> = new Map()): Map<string, string[]> {
  if (route.kind === 'series') {
    into.set(
      route.id,
      route.parts.map((part) => part.id),
    );
    for (const part of route.parts) shape(part, into);
  } else if (route.kind === 'parallel') for (const branch of route.branches) shape(branch.route, into);
  return into;
}
const routeFrom = (seed: number, seats: number): Series => randomRoute(drawsFrom(seed), seats);
const anyStage = (route: Series, seed: number): Stage => {
  const stages = stagesOf(route);
  return stages[seed % stages.length] as Stage;
};

describe('the planned route', () => {
  it('gets a stage right behind the one that was meant, in its own series, and is else as it was', () => {
    fc.assert(
      fc.property(scenario, ({ seed, seats }) => {
        const route = routeFrom(seed, seats);
        const after = anyStage(route, seed);
        const next = insertAfter(route, after.id, fresh);
        const before = shape(route);
        for (const [series, parts] of shape(next)) {
          const old = before.get(series) as string[];
          const at = old.indexOf(after.id);
          expect(parts).toEqual(at < 0 ? old : [...old.slice(0, at + 1), 'fresh', ...old.slice(at + 1)]);
        }
        expect(routeFaults(next)).toEqual(routeFaults(route));
        expect(stagesOf(next).filter((stage) => stage.id !== 'fresh')).toEqual(stagesOf(route));
        expect(insertAfter(route, null, fresh).parts.at(-1)).toBe(fresh);
        expect(stagesOf(insertAfter(route, 'no such stage', fresh))).toEqual(stagesOf(route));
      }),
    );
  });

  it('keeps every stage when one is moved, within its own series, and moving back undoes it', () => {
    let moved = 0;
    fc.assert(
      fc.property(scenario, fc.constantFrom(-1 as const, 1 as const), ({ seed, seats }, by) => {
        const route = routeFrom(seed, seats);
        const { id } = anyStage(route, seed);
        const next = moveStage(route, id, by);
        const before = shape(route);
        for (const [series, parts] of shape(next)) {
          const old = before.get(series) as string[];
          const at = old.indexOf(id);
          const to = at + by;
          if (at < 0 || to < 0 || to >= old.length) expect(parts).toEqual(old);
          else {
            moved += 1;
            expect([parts[to], parts[at]]).toEqual([id, old[to]]);
            expect([...parts].sort()).toEqual([...old].sort());
            expect(shape(moveStage(next, id, by === 1 ? -1 : 1))).toEqual(before);
          }
        }
        expect(
          stagesOf(next)
            .map((stage) => stage.id)
            .sort(),
        ).toEqual(
          stagesOf(route)
            .map((stage) => stage.id)
            .sort(),
        );
      }),
    );
    expect(moved).toBeGreaterThan(10);
  });

  it('says beforehand exactly whom the engine asks when it is sent', () => {
    fc.assert(
      fc.property(scenario, ({ seed, seats }) => {
        const route = routeFrom(seed, seats);
        const asked = [...(sentRun(route).state as Circulation).seats.values()]
          .filter((seat) => seat.status === 'asked')
          .map((seat) => seat.id);
        // A stage of signatures waits for its places first.
        const said = firstAsked(route).filter(({ stage }) => stage.verb !== 'sign');
        expect(said.map(({ seat }) => seat.id).sort()).toEqual(asked.sort());
      }),
      { numRuns: 300 },
    );
    expect(firstAsked({ kind: 'series', id: 'empty', parts: [] })).toEqual([]);
  });
});
