import fc from 'fast-check';
import { expect, it } from 'vitest';
import { differs, told } from '../model/differential';
import { expectMet, few, runsOf, seed } from '../setting';
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
  fc.assert(agree, { numRuns: runsOf(150) });
  if (!few)
    fc.assert(agree, {
      seed: -seed,
      numRuns: 100_000,
      interruptAfterTimeLimit: 60_000,
      markInterruptAsFailure: false,
    });
  process.stdout.write(`${played} circulations played to both, seed ${seed}\n`);
  expect(played).toBeGreaterThanOrEqual(runsOf(150));
  for (const type of ['decide', 'reassign', 'confirmRound', 'amend', 'pause', 'see', 'extend'])
    expectMet({ [type]: accepted.get(type) ?? 0 });
});
