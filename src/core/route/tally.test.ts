import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Rule } from './tally';
import { planned, type Standing, tally } from './tally';

const members = fc.array(fc.constantFrom<Standing>('yes', 'open', 'no', 'gone'), { maxLength: 12 });
const rule: fc.Arbitrary<Rule> = fc.oneof(
  fc.constantFrom<Rule>({ kind: 'all' }, { kind: 'any' }),
  fc.integer({ min: 1, max: 6 }).map((k) => ({ kind: 'atLeast' as const, k })),
);

describe('a tally', () => {
  it('counts those who take part, and is met exactly when enough of them said yes', () => {
    fc.assert(
      fc.property(rule, members, fc.constantFrom('seats' as const, 'branches' as const), (given, all, of) => {
        const there = all.filter((member) => member !== 'gone');
        const yes = there.filter((member) => member === 'yes').length;
        const open = there.filter((member) => member === 'open').length;
        const found = tally(given, all, of);
        expect(found).toMatchObject({ n: there.length, yes });
        expect(found.met).toBe(there.length > 0 && yes >= found.needed);
        expect(found.reachable).toBe(yes + open >= found.needed);
        if (found.met) expect(found.reachable).toBe(true);
      }),
    );
  });

  it('asks for all that are left, for one of any, and for a quorum that only branches shrink', () => {
    const gone: Standing[] = ['yes', 'gone', 'gone'];
    expect(tally({ kind: 'all' }, gone, 'seats')).toMatchObject({ needed: 1, met: true });
    expect(tally({ kind: 'atLeast', k: 2 }, gone, 'seats')).toMatchObject({ needed: 2, met: false, reachable: false });
    expect(tally({ kind: 'atLeast', k: 2 }, gone, 'branches')).toMatchObject({ needed: 1, met: true });
    expect(tally({ kind: 'any' }, ['gone'], 'branches')).toMatchObject({ n: 0, needed: 0, met: false });
    expect(tally({ kind: 'any' }, ['open', 'open'], 'seats').needed).toBe(1);
    expect(planned({ kind: 'all' }, 3)).toMatchObject({ n: 3, needed: 3, met: false, reachable: true });
  });
});
