import { describe, expect, it } from 'vitest';
import { fork, route, stage } from '../../../test/properties/scene';
import { conditionLimits } from './condition';
import {
  atInstant,
  emptySeries,
  instantOf,
  mapStages,
  type Route,
  routeFaults,
  routeLimits,
  type Seat,
  type Series,
  stagesOf,
} from './route';

const codes = (...parts: Route[]) => routeFaults(route(...parts)).map((fault) => fault.code);
const one = stage('a', 'approve', ['petra', 'oskar', 'yuki']);
const two = stage('b', 'review', ['noor']);

describe('a time of the plan', () => {
  it('is an instant or none, there and back', () => {
    expect(atInstant(null)).toBeNull();
    expect(atInstant(5)).toEqual({ kind: 'instant', at: 5 });
    expect(instantOf(atInstant(5))).toBe(5);
    expect(instantOf(null)).toBeNull();
  });
});

describe('a route', () => {
  it('is refused for what cannot be walked', () => {
    expect(codes(one, two)).toEqual([]);
    for (const k of [0, 4, 1.5]) expect(codes({ ...one, rule: { kind: 'atLeast', k } })).toEqual(['rule-out-of-reach']);
    // That nobody is there yet is said by itself.
    expect(codes({ ...one, seats: [], rule: { kind: 'atLeast', k: 2 } })).not.toContain('rule-out-of-reach');
    for (const k of [1, 3]) expect(codes({ ...one, rule: { kind: 'atLeast', k } })).toEqual([]);
    expect(codes(one, one)).toContain('duplicate-id');
    expect(codes(stage('a', 'review', ['petra'], { due: 5, closes: 4 }))).toEqual(['closes-before-due']);
    expect(codes(stage('a', 'review', ['petra'], { due: 5, closes: 5 }))).toEqual([]);
    // Of a seat with a time of its own, beside those of its stage.
    const own = (times: Partial<Pick<Seat, 'due' | 'closes'>>, of: { due?: number; closes?: number }) => {
      const whole = stage('a', 'review', ['petra'], of);
      return routeFaults(route({ ...whole, seats: whole.seats.map((seat) => ({ ...seat, ...times })) }));
    };
    const at = (instant: number) => ({ kind: 'instant', at: instant }) as const;
    const fault = [{ code: 'closes-before-due', id: 'a-petra' }];
    expect(own({ due: at(6) }, { closes: 5 })).toEqual(fault);
    expect(own({ closes: at(4) }, { due: 5 })).toEqual(fault);
    expect(own({ due: at(6), closes: at(4) }, {})).toEqual(fault);
    expect(own({ due: at(4) }, { due: 6, closes: 5 })).toEqual([{ code: 'closes-before-due', id: 'a' }]);
    expect(own({ due: at(4) }, { closes: 5 })).toEqual([]);
    const many = { kind: 'record', field: 'unit', is: 'is', value: 'x' } as const;
    const among = (n: number) => ({ kind: 'any', of: Array.from({ length: n }, () => many) }) as const;
    expect(codes({ ...one, condition: among(conditionLimits.parts - 1) })).toEqual([]);
    expect(codes({ ...one, condition: among(conditionLimits.parts) })).toEqual(['condition-unfit']);
    expect(codes(fork({ kind: 'all' }))).toEqual(['too-few-branches']);
    expect(codes(fork({ kind: 'all' }, [one]))).toEqual([]);
    expect(codes(fork({ kind: 'atLeast', k: 3 }, [one], [two]))).toEqual(['rule-out-of-reach']);
  });

  it('takes a signature only where no join can pass it by', () => {
    const signed = stage('s', 'sign', ['benedikt']);
    expect(codes(fork({ kind: 'any' }, [signed], [two]))).toEqual(['sign-under-partial-join']);
    expect(codes(fork({ kind: 'atLeast', k: 1 }, [signed], [two]))).toEqual(['sign-under-partial-join']);
    expect(codes(fork({ kind: 'atLeast', k: 2 }, [signed], [two]))).toEqual([]);
    expect(codes(fork({ kind: 'all' }, [signed], [two]))).toEqual([]);
    const inner = { ...fork({ kind: 'all' }, [signed], [two]), id: 'inner' };
    const outer = fork(
      { kind: 'any' },
      [
        {
          ...inner,
          branches: inner.branches.map((branch, i) => ({ ...branch, route: { ...branch.route, id: `i${i}` } })),
        },
      ],
      [one],
    );
    expect(codes(outer)).toEqual(['sign-under-partial-join']);
  });

  it('has its limits', () => {
    const many = Array.from({ length: routeLimits.stages + 1 }, (_, i) => stage(`g${i}`, 'read', ['petra']));
    expect(codes(...many)).toEqual(['too-large']);
    expect(codes(...many.slice(1))).toEqual([]);
    const crowd = Array.from({ length: routeLimits.seats + 1 }, (_, i) => `p${i}`);
    expect(codes(stage('a', 'read', crowd))).toEqual(['too-large']);
    expect(codes(stage('a', 'read', crowd.slice(1)))).toEqual([]);
    const nested = (depth: number): Series =>
      depth === 0
        ? { kind: 'series', id: 'd0', parts: [stage('x', 'read', ['petra'])] }
        : {
            kind: 'series',
            id: `d${depth}`,
            parts: [
              {
                kind: 'parallel',
                id: `p${depth}`,
                name: '',
                join: { kind: 'all' },
                branches: [
                  { name: '', condition: null, route: nested(depth - 1) },
                  {
                    name: '',
                    condition: null,
                    route: { kind: 'series', id: `e${depth}`, parts: [stage(`y${depth}`, 'read', ['oskar'])] },
                  },
                ],
              },
            ],
          };
    expect(routeFaults(nested(routeLimits.depth))).toEqual([]);
    expect(routeFaults(nested(routeLimits.depth + 1)).map((fault) => fault.code)).toEqual(['too-large']);
  });

  it('names the series in which nothing stands', () => {
    expect(emptySeries(route())).toEqual([]);
    expect(emptySeries(route(fork({ kind: 'all' }, [one], [])))).toEqual(['branch-1']);
    expect(emptySeries(route({ kind: 'series', id: 'i', parts: [{ kind: 'series', id: 'j', parts: [] }] }))).toEqual([
      'i',
      'j',
    ]);
  });

  it('changes one stage and leaves the rest', () => {
    const plan = route(one, fork({ kind: 'all' }, [two], []), {
      kind: 'series',
      id: 'i',
      parts: [stage('c', 'read', ['dalia'])],
    });
    expect(stagesOf(mapStages(plan, (own) => (own.id === 'b' ? null : own))).map((own) => own.id)).toEqual(['a', 'c']);
    expect(stagesOf(mapStages(plan, (own) => ({ ...own, verb: 'sign' }))).every((own) => own.verb === 'sign')).toBe(
      true,
    );
  });
});
