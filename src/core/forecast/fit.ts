import { type Verb, verbs } from '../route/verbs';
import type { Instant } from '../time/instant';
import { type Model, type Spread, tailOf, usualSpread } from './model';
import { above } from './normal';

/** How long somebody took, or has taken so far, for one task. */
export interface Sample {
  /** A person, or `group:` and a group. */
  readonly who: string;
  readonly verb: Verb;
  /** In working minutes. */
  readonly minutes: number;
  /** Open tasks they had when it came, itself among them. */
  readonly open: number;
  /** False while it is still open: it will have taken longer. */
  readonly done: boolean;
}

/** How often something happened among so many. */
export interface Count {
  readonly of: number;
  readonly among: number;
}

/** What happened in the circulations that a model is fitted from, besides how long responses took. */
export interface Happened {
  readonly returns: Readonly<Partial<Record<Verb, Count>>>;
  readonly kept: Count;
  readonly withComments: Count;
  /** In working minutes. */
  readonly reworks: readonly number[];
  readonly releases: readonly number[];
}

/** How many responses of one's own weigh as much as what everybody does. */
const shrinkage = 6;
const passes = 8;

const logOf = (minutes: number) => Math.log(Math.max(1, minutes));
const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length);

/** A spread of minutes by their mean and deviation, drawn towards what is usual by how few they are. */
function spreadOf(minutes: readonly number[], usual: Spread): Spread {
  const logs = minutes.map(logOf);
  const n = logs.length;
  const mu = (mean(logs) * n + shrinkage * usual.mu) / (n + shrinkage);
  const squares = logs.reduce((sum, log) => sum + (log - mu) ** 2, 0);
  return { mu, sigma: Math.sqrt((squares + shrinkage * usual.sigma ** 2) / (n + shrinkage)) };
}

/** In a thousand, drawn towards a usual share by how few they are. */
const shareOf = ({ of, among }: Count, usual: number) => Math.round(((of + usual * 20) / (among + 20)) * 1000);

/**
 * Fits what the past says: per person and verb a log-normal, shrunk towards the verb; tasks that are still open count as
 * censored, by expectation and maximization (Dempster, Laird and Rubin 1977), or the model would believe that everybody is
 * quick; the open tasks of whoever is asked as a covariate, within people, so that the slow are not blamed on their load.
 */
export function learn(samples: readonly Sample[], happened: Happened, fitted: Instant): Model {
  const usualOpen = mean(samples.map(({ open }) => Math.log(1 + open)));
  const x = samples.map(({ open }) => Math.log(1 + open) - usualOpen);
  const y = samples.map(({ minutes, done }) => logOf(minutes) + (done ? 0 : 0.5));
  const spare = samples.map(() => 0);
  const byPerson = grouped(samples, ({ who, verb }) => `${who}/${verb}`);
  const byVerb = grouped(samples, ({ verb }) => verb);
  const general = new Map<string, Spread>();
  const own = new Map<string, Spread>();
  let slope = 0;
  for (let pass = 0; pass < passes; pass += 1) {
    slope = slopeWithin(byPerson, x, y);
    const rest = y.map((value, i) => value - slope * (x[i] as number));
    for (const [verb, members] of byVerb) {
      const mu = mean(members.map((i) => rest[i] as number));
      const squares = members.map((i) => ((rest[i] as number) - mu) ** 2 + (spare[i] as number));
      general.set(verb, { mu, sigma: Math.max(0.2, Math.sqrt(mean(squares))) });
    }
    for (const [key, members] of byPerson) {
      const { mu: towards, sigma: usual } = general.get(samples[members[0] as number]?.verb ?? '') as Spread;
      const n = members.length;
      const mu = (members.reduce((sum, i) => sum + (rest[i] as number), 0) + shrinkage * towards) / (n + shrinkage);
      const squares = members.reduce((sum, i) => sum + ((rest[i] as number) - mu) ** 2 + (spare[i] as number), 0);
      // One's own spread lies within that of everybody, which has the differences between people in it.
      const sigma = Math.sqrt((squares + shrinkage * (0.8 * usual) ** 2) / (n + shrinkage));
      own.set(key, { mu, sigma: Math.max(0.2, sigma) });
    }
    samples.forEach(({ who, verb, minutes, done }, i) => {
      if (done) return;
      const { mu, sigma } = own.get(`${who}/${verb}`) as Spread;
      const centre = mu + slope * (x[i] as number);
      const rest = above((logOf(minutes) - centre) / sigma);
      y[i] = centre + sigma * rest.mean;
      spare[i] = sigma ** 2 * rest.variance;
    });
  }
  const spreads: Record<string, Spread & { n: number; tail: number[] }> = {};
  for (const verb of verbs) {
    const members = byVerb.get(verb) ?? [];
    const spread = general.get(verb);
    if (!spread) continue;
    const residuals = members.flatMap((i) => {
      const sample = samples[i] as Sample;
      const { mu, sigma } = own.get(`${sample.who}/${verb}`) as Spread;
      return sample.done ? [((y[i] as number) - slope * (x[i] as number) - mu) / sigma] : [];
    });
    spreads[verb] = { ...spread, n: members.length, tail: tailOf(residuals) };
  }
  const people: Record<string, Spread & { n: number }> = {};
  for (const [key, spread] of own) people[key] = { ...spread, n: byPerson.get(key)?.length ?? 0 };
  return {
    fitted,
    n: samples.filter(({ done }) => done).length,
    verbs: spreads,
    people,
    load: { slope, usual: usualOpen },
    returns: Object.fromEntries(
      verbs.flatMap((verb) => {
        const count = happened.returns[verb];
        return count ? [[verb, shareOf(count, 0.05)]] : [];
      }),
    ),
    kept: shareOf(happened.kept, 0.5),
    withComments: shareOf(happened.withComments, 0.2),
    rework: spreadOf(happened.reworks, usualSpread),
    release: spreadOf(happened.releases, { mu: Math.log(120), sigma: 1 }),
  };
}

function grouped<T>(items: readonly T[], keyOf: (item: T) => string): Map<string, number[]> {
  const groups = new Map<string, number[]>();
  items.forEach((item, i) => {
    const key = keyOf(item);
    const group = groups.get(key);
    if (group) group.push(i);
    else groups.set(key, [i]);
  });
  return groups;
}

/** The slope of y over x within groups (fixed effects); none where x never differs within any. */
function slopeWithin(
  groups: ReadonlyMap<string, readonly number[]>,
  x: readonly number[],
  y: readonly number[],
): number {
  let products = 0;
  let squares = 0;
  for (const members of groups.values()) {
    const mx = mean(members.map((i) => x[i] as number));
    const my = mean(members.map((i) => y[i] as number));
    for (const i of members) {
      products += ((x[i] as number) - mx) * ((y[i] as number) - my);
      squares += ((x[i] as number) - mx) ** 2;
    }
  }
  return squares < 1 ? 0 : Math.min(1, Math.max(-0.2, products / squares));
}
