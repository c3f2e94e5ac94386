import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Past, pastAt } from './past';

const changes = fc.uniqueArray(fc.integer({ min: 1, max: 50 }), { maxLength: 8 });
const past = (person: string, moments: readonly number[]): Past[] =>
  [...moments]
    .sort((a, b) => a - b)
    .map((until, i) => ({ person, until, name: `${person} ${i}`, work: '', company: '' }));

describe('what somebody was called at a moment', () => {
  it('is the name that stood then, whatever the order in which changes are known', () => {
    fc.assert(
      fc.property(changes, changes, fc.integer({ min: 0, max: 60 }), fc.nat(), (own, others, at, seed) => {
        const known = [...past('a', own), ...past('b', others)];
        const turned = [...known.slice(seed % (known.length + 1)), ...known.slice(0, seed % (known.length + 1))];
        // As many changes had been made before or at that moment as stand in the name that was true then.
        const before = own.filter((moment) => moment <= at).length;
        expect(pastAt(turned, 'a', at)?.name ?? null).toBe(before === own.length ? null : `a ${before}`);
      }),
    );
  });

  it('is today’s from the very moment of the change', () => {
    const known = past('a', [10]);
    expect([pastAt(known, 'a', 9)?.name, pastAt(known, 'a', 10)]).toEqual(['a 0', null]);
    expect(pastAt(known, 'b', 9)).toBe(null);
  });
});
