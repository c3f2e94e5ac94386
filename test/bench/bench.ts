import { fold } from '@/core/circulation/run/evolve';
import { actorRate, foldingRate, longStream } from './folding';

const median = (values: readonly number[]) =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] as number;

/** Seconds that folding a stream of so many events takes, the best of three. */
function secondsFor(events: number): number {
  const stream = longStream(events);
  let best = Number.POSITIVE_INFINITY;
  for (let i = 0; i < 3; i += 1) {
    const began = performance.now();
    if (!fold(stream)) throw new Error('an empty fold');
    best = Math.min(best, (performance.now() - began) / 1000);
  }
  return best;
}

/** The part of the measurements that runs in this process; prints JSON. */
const folding = foldingRate();
const act = actorRate();
const folded: number[] = [];
const actor: number[] = [];
folding();
act();
// In turn, so that a change of the machine's speed meets both.
for (let round = 0; round < 15; round += 1) {
  folded.push(folding());
  actor.push(act());
}
const [short, long] = [secondsFor(10_000), secondsFor(100_000)];
process.stdout.write(
  `${JSON.stringify({
    folded: median(folded),
    actor: median(actor),
    ratio: median(folded.map((value, i) => value / (actor[i] as number))),
    short,
    long,
  })}\n`,
);
process.exit(0);
