import type { Verb } from '../route/verbs';
import type { Instant } from '../time/instant';
import { below, quantile } from './normal';
import { tick } from './ticks';

/** A log-normal spread of working minutes: the mean and the deviation of their logarithm. */
export interface Spread {
  readonly mu: number;
  readonly sigma: number;
}

/** What an organization's own past says of how long things take. */
export interface Model {
  readonly fitted: Instant;
  /** How many responses it was fitted from. */
  readonly n: number;
  readonly verbs: Readonly<Partial<Record<Verb, Spread & { readonly n: number; readonly tail: readonly number[] }>>>;
  /** By `who/verb`: a person, or `group:` and a group. Shrunk towards the verb by how little is known. */
  readonly people: Readonly<Record<string, Spread & { readonly n: number }>>;
  /** By how much the logarithm grows with that of the open tasks somebody has, and what they usually have. */
  readonly load: { readonly slope: number; readonly usual: number };
  /** How often, in a thousand, a response of a verb sends it back; how often an earlier decision is kept in a next round. */
  readonly returns: Readonly<Partial<Record<Verb, number>>>;
  readonly kept: number;
  /** How often, in a thousand, an approval is given with comments. */
  readonly withComments: number;
  readonly rework: Spread;
  readonly release: Spread;
}

/** What is assumed before there is any history: two working days in the middle, three times that in one of ten. */
export const usualSpread: Spread = { mu: Math.log(2 * 510), sigma: 0.86 };

/** Below so many responses nothing is forecast. */
export const leastHistory = 40;

/** How many cells a table of quantiles has; each is as likely as the others. */
const cells = 256;
const normals = Array.from({ length: cells }, (_, i) => quantile((i + 0.5) / cells));

/**
 * What is left of a spread for one who has worked on it for so many quarter hours, as a table of quantiles in quarter hours,
 * ascending: draws look up whole numbers and compute nothing.
 */
export function tableOf({ mu, sigma }: Spread, worked = 0, tail: readonly number[] = normals): Int32Array {
  const ticksAt = (z: number) => (Math.exp(mu + sigma * z) * 60_000) / tick;
  const left = worked === 0 ? tail : beyond(tail, (Math.log((worked * tick) / 60_000) - mu) / sigma);
  return Int32Array.from(left, (z) => Math.min(1e6, Math.max(1, Math.round(ticksAt(z)) - worked)));
}

/** The quantiles of a table of residuals of those that are known to lie above z. */
function beyond(tail: readonly number[], z: number): number[] {
  const share = (j: number) => (j + 0.5) / cells;
  const passed = tail.filter((value) => value <= z).length;
  // Where hardly anybody has been, the shape of the normal goes on; far out the rest is exponential.
  if (passed > cells - 8)
    return normals.map((_, j) =>
      z > 4 ? z - Math.log(1 - share(j)) / z : quantile(below(z) + (1 - below(z)) * share(j)),
    );
  return normals.map((_, j) => {
    const at = passed + share(j) * (cells - passed) - 0.5;
    const low = Math.max(passed, Math.floor(at));
    const high = Math.min(cells - 1, low + 1);
    const from = tail[Math.min(low, cells - 1)] as number;
    return Math.max(z, from + Math.max(0, at - low) * ((tail[high] as number) - from));
  });
}

/**
 * The table of somebody's work on a verb with so many open tasks, of which so many quarter hours have gone by; of the verb
 * alone where they are not known.
 */
export function tableFor(model: Model, who: string | null, verb: Verb, open: number | null, worked = 0): Int32Array {
  const general = model.verbs[verb];
  const { mu, sigma } = (who === null ? undefined : model.people[`${who}/${verb}`]) ?? general ?? usualSpread;
  const shift = open === null ? 0 : model.load.slope * (Math.log(1 + open) - model.load.usual);
  return tableOf({ mu: mu + shift, sigma }, worked, general?.tail);
}

/** Standardized residuals as a table of quantiles, drawn towards the normal ones by how few they are. */
export function tailOf(residuals: readonly number[]): number[] {
  const sorted = residuals.slice().sort((a, b) => a - b);
  const weight = sorted.length / (sorted.length + 60);
  return normals.map((z, i) => {
    if (sorted.length === 0) return z;
    const at = ((i + 0.5) / cells) * sorted.length - 0.5;
    const low = Math.min(sorted.length - 1, Math.max(0, Math.floor(at)));
    const high = Math.min(sorted.length - 1, low + 1);
    const own = (sorted[low] as number) + Math.max(0, at - low) * ((sorted[high] as number) - (sorted[low] as number));
    return weight * own + (1 - weight) * z;
  });
}
