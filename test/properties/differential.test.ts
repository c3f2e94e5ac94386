import fc from 'fast-check';
import { expect, it } from 'vitest';
import { differs, told } from '../model/differential';
import { runsOf, seed } from '../setting';
import { scenario } from './arbitrary';

it('the engine and a model written from the rules alone agree on what is refused and on all that can be seen', () => {
  const accepted = new Map<string, number>();
  let played = 0;
  const met = (type: string) => accepted.set(type, (accepted.get(type) ?? 0) + 1);
  const agree = fc.property(scenario, (given) => {
    played += 1;
    const difference = differs(given, met);
    if (difference) throw new Error(told(difference));
  });
  // So many however slow the machine is, and then as many as fit in the time; what they found until then counts.
  fc.assert(agree, { numRuns: runsOf(60) });
  fc.assert(agree, {
    seed: -seed,
    numRuns: runsOf(100_000),
    interruptAfterTimeLimit: 60_000,
    markInterruptAsFailure: false,
  });
  process.stdout.write(`${played} circulations played to both, seed ${seed}\n`);
  expect(played).toBeGreaterThan(runsOf(60));
  for (const type of ['decide', 'reassign', 'confirmRound', 'amend', 'pause', 'see', 'extend'])
    expect(accepted.get(type) ?? 0, type).toBeGreaterThan(0);
});
