/**
 * How often a property is tried, from how often it usually is: AVENDA_RUNS says it for all of them, in per cent of what is
 * usual (100 unless said otherwise).
 */
export const runsOf = (usual: number): number => Math.max(1, Math.ceil((usual * share) / 100));

/** From which seed every property draws: AVENDA_SEED, which `npm test` sets to another one each day and prints. */
export const seed = Number(process.env.AVENDA_SEED ?? 1);

const share = Number(process.env.AVENDA_RUNS ?? 100);
