import { expect } from 'vitest';

/**
 * How often a property is tried, from how often it usually is: AVENDA_RUNS says it for all of them, in per cent of what is
 * usual (100 unless said otherwise).
 */
export const runsOf = (usual: number): number => Math.max(1, Math.ceil((usual * share) / 100));

/** From which seed every property draws: AVENDA_SEED, which `npm test` sets to another one each day and prints. */
export const seed = Number(process.env.AVENDA_SEED ?? 1);

const share = Number(process.env.AVENDA_RUNS ?? 100);

/** Whether properties are tried less often than usual, as when each of many changes is held against them. */
export const few = share < 100;

/**
 * Holds that a property has met each of these cases often enough to say something about it. Fewer runs than usual may pass a
 * case by, and that is nothing that a change of the code has done.
 */
export function expectMet(counts: Readonly<Record<string, number>>, least = 1): void {
  if (few) return;
  for (const [what, count] of Object.entries(counts)) expect(count, what).toBeGreaterThanOrEqual(least);
}
