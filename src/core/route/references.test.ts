import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { drawsFrom, randomRoute, scenario } from '../../../test/properties/arbitrary';
import { fork, route, stage } from '../../../test/properties/scene';
import { runsOf } from '../../../test/setting';
import { edited } from './edit';
import {
  danglingIn,
  fieldsRenamed,
  leadsToCircle,
  mapReferences,
  namedThrough,
  referencesOf,
  renamed,
} from './references';
import { freshSeat, partsOf, type Series, stagesOf } from './route';

const outcome = (of: string) => ({ kind: 'outcome', stage: of, outcome: 'declined' }) as const;
/** A route with a pointer of every kind, on a stage and on a branch. */
const pointing = (): Series => {
  const made = route(
    stage('a', 'review', ['petra']),
    fork({ kind: 'all' }, [stage('b', 'approve', ['named:a-petra', 'oskar'])], [stage('c', 'review', ['yuki'])]),
    stage('d', 'sign', ['benedikt'], {
      independentOf: ['b'],
      condition: { kind: 'all', of: [outcome('a'), { kind: 'not', of: outcome('c') }] },
      earliest: { kind: 'wait', from: { stage: 'b' }, amount: 1, unit: 'days', again: false },
    }),
    { kind: 'copies', id: 'e', to: [{ id: 'e-1', assignment: { kind: 'named', by: 'a-petra' } }], hidden: false },
  );
  const [, branches] = made.parts;
  if (branches?.kind !== 'parallel') throw new Error('no fork');
  const second = branches.branches.map((one, i) => (i === 1 ? { ...one, condition: outcome('a') } : one));
  return { ...made, parts: made.parts.map((part) => (part === branches ? { ...branches, branches: second } : part)) };
};
const told = (plan: Series) => referencesOf(plan).map(({ kind, from, to }) => `${from} ${kind} ${to}`);

describe('what a plan points to', () => {
  it('is found wherever it stands', () => {
    expect(new Set(told(pointing()))).toEqual(
      new Set([
        'branch-1 outcomeOf a',
        'b-named namedBy a-petra',
        'd independentOf b',
        'd earliestAfter b',
        'd outcomeOf a',
        'd outcomeOf c',
        'e-1 namedBy a-petra',
      ]),
    );
    expect(told(pointing())).toHaveLength(7);
    expect(told(route(stage('a', 'review', ['petra'])))).toEqual([]);
  });

  it('goes along when the parts get other names, and comes back with theirs', () => {
    fc.assert(
      fc.property(scenario, ({ seed, seats }) => {
        const plan = randomRoute(drawsFrom(seed), seats);
        const names = new Map<string, string>();
        const other = renamed(plan, (id) => {
          expect(names.has(id), 'asked for twice').toBe(false);
          names.set(id, `new-${id}`);
          return `new-${id}`;
        });
        const ids = (of: Series) => [
          ...partsOf(of).map(({ id }) => id),
          ...stagesOf(of).flatMap((own) => own.seats.map(({ id }) => id)),
        ];
        expect(ids(other)).toEqual(ids(plan).map((id) => `new-${id}`));
        expect(told(other)).toEqual(referencesOf(plan).map(({ kind, from, to }) => `new-${from} ${kind} new-${to}`));
        expect(danglingIn(other)).toHaveLength(danglingIn(plan).length);
        expect(renamed(other, (id) => id.slice(4))).toEqual(plan);
      }),
      { numRuns: runsOf(50) },
    );
    const plan = pointing();
    expect(
      renamed(
        renamed(plan, (id) => `x${id}`),
        (id) => id.slice(1),
      ),
    ).toEqual(plan);
  });

  it('is told where it is not there, and what loses it goes or stands alone', () => {
    const plan = pointing();
    const without = edited(plan, { do: 'remove', part: 'a' });
    expect(new Set(danglingIn(without).map(({ from, to }) => `${from} ${to}`))).toEqual(
      new Set(['branch-1 a', 'b-named a-petra', 'd a', 'e-1 a-petra']),
    );
    const lost = new Set(danglingIn(without).map(({ to }) => to));
    const clean = mapReferences(without, ({ to }) => (lost.has(to) ? null : to));
    expect(danglingIn(clean)).toEqual([]);
    expect(stagesOf(clean).map(({ id, seats, condition }) => [id, seats.map((seat) => seat.id), condition])).toEqual([
      ['b', ['b-oskar'], null],
      ['c', ['c-yuki'], null],
      ['d', ['d-benedikt'], null],
    ]);
    expect(told(clean)).toEqual(['d independentOf b', 'd earliestAfter b']);
    expect(told(mapReferences(clean, () => null))).toEqual([]);
    // Editing itself drops who is independent of nobody any more.
    expect(told(edited(plan, { do: 'remove', part: 'b' }))).not.toContain('d independentOf b');
  });

  it('may not run in a circle of names, also where it only leads to one', () => {
    const named = (id: string, by: string) => freshSeat(id, { kind: 'named', by });
    const one = { ...stage('a', 'review', ['petra']), seats: [named('x', 'y'), named('y', 'x'), named('z', 'y')] };
    const plan = route({
      ...one,
      seats: [...one.seats, freshSeat('p', { kind: 'person', person: 'petra' }), named('q', 'p')],
    });
    expect(['x', 'y', 'z', 'p', 'q'].map((seat) => leadsToCircle(plan, seat))).toEqual([
      true,
      true,
      true,
      false,
      false,
    ]);
    expect([...namedThrough(plan, ['p'])]).toEqual(['p', 'q']);
    expect([...namedThrough(plan, ['y'])].sort()).toEqual(['x', 'y', 'z']);
  });

  it('takes the fields of its seats along', () => {
    const plan = pointing();
    const after = renamed(plan, (id) => `new-${id}`);
    const field = (seat: string) => ({ id: `f-${seat}`, seat, file: 'f1' }) as never;
    expect(fieldsRenamed([field('d-benedikt'), field('gone')], plan, after)).toEqual([
      { id: 'f-d-benedikt', seat: 'new-d-benedikt', file: 'f1' },
    ]);
  });
});
