import { actorRate, foldingRate } from './folding';

/** The part of the measurements that runs in this process; prints JSON. */
const folded = foldingRate();
const actor = actorRate();
process.stdout.write(`${JSON.stringify({ folded, actor })}\n`);
process.exit(0);
