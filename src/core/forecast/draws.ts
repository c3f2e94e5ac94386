/** What is drawn for a seat in one run: how long they take, whether they send it back, whether a decision is kept. */
export const lanes = { time: 1, returns: 2, kept: 3, odds: 4 } as const;

/** A key of what is drawn for, from its name (FNV-1a, 32 bits). */
export function keyOf(name: string): number {
  let hash = 0x811c9dc5;
  for (let i = 0; i < name.length; i += 1) hash = Math.imul(hash ^ name.charCodeAt(i), 0x01000193);
  return hash >>> 0;
}

/** What a stream of draws shares over all runs: the seat, what is drawn, and the round. */
export function streamOf(key: number, lane: number, round: number): number {
  return mixed((key ^ Math.imul(lane, 0x85ebca6b) ^ Math.imul(round + 1, 0xc2b2ae35)) >>> 0);
}

/**
 * 32 random bits of one run. There is no state: the same seat, round and run always give the same, on every machine, so
 * that two routes share their draws and differ by nothing but the route (common random numbers).
 */
export function bitsOf(stream: number, run: number): number {
  return mixed((stream + Math.imul(run, 0x9e3779b1)) >>> 0);
}

/** The finalizer of MurmurHash3 (Appleby), in which every bit of the input changes half of the output's. */
function mixed(value: number): number {
  let h = value;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}
