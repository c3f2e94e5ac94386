import { actorRate, foldingRate } from './folding';

const median = (values: readonly number[]) =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] as number;

/** The part of the measurements that runs in this process; prints JSON. */
const fold = foldingRate();
const act = actorRate();
const folded: number[] = [];
const actor: number[] = [];
fold();
act();
// In turn, so that a change of the machine's speed meets both.
for (let round = 0; round < 15; round += 1) {
  folded.push(fold());
  actor.push(act());
}
process.stdout.write(
  `${JSON.stringify({
    folded: median(folded),
    actor: median(actor),
    ratio: median(folded.map((value, i) => value / (actor[i] as number))),
  })}\n`,
);
process.exit(0);
