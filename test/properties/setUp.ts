import fc from 'fast-check';
import { beforeEach } from 'vitest';
import { few, runsOf, seed } from '../setting';

// Before every test: how often its properties are tried, and from which seed. Each test draws its own from the one that is
// set and its name, so that no two of them play the same circulations, and one that fails does so again when run alone.
beforeEach(({ task }) => {
  let own = seed;
  for (const letter of task.name) own = (Math.imul(own, 31) + letter.charCodeAt(0)) | 0;
  // Where many changes are held against it, that it fails is enough: no smaller example is looked for.
  fc.configureGlobal({ seed: own, numRuns: runsOf(100), endOnFailure: few });
});
