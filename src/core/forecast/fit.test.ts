import { describe, expect, it } from 'vitest';
import { drawsFrom, start } from '../../../test/properties/arbitrary';
import { type Happened, learn, type Sample } from './fit';
import { above, below, quantile } from './normal';

const nothing: Happened = {
  returns: {},
  kept: { of: 0, among: 0 },
  withComments: { of: 0, among: 0 },
  reworks: [],
  releases: [],
};

/** Responses of people of whom everything is known, some looked at before they had responded. */
function past(n: number, { mu = Math.log(600), sigma = 0.7, slope = 0.4, open = 0.25 } = {}) {
  const draws = drawsFrom(42);
  const normal = () => quantile((draws.below(1e6) + 0.5) / 1e6);
  const own = new Map(['petra', 'noor', 'yuki', 'oskar'].map((who, i) => [who, (i - 1.5) * 0.4]));
  const samples: Sample[] = [];
  for (let i = 0; i < n; i += 1) {
    const who = draws.pick([...own.keys()]);
    const count = 1 + draws.below(8);
    const log = mu + (own.get(who) as number) + slope * Math.log((1 + count) / 5) + sigma * normal();
    const minutes = Math.exp(log);
    const looked = draws.chance(open) ? Math.exp(mu + sigma * normal()) : minutes;
    const seen = Math.min(minutes, looked);
    samples.push({ who, verb: 'review', minutes: seen, open: count, done: seen === minutes });
  }
  return samples;
}

describe('the fit', () => {
  it('finds what was true: everybody, each person, their spread and what load does', () => {
    const { verbs, people, load, n } = learn(past(4000), nothing, start);
    const usual = Math.log(600) + load.slope * (load.usual - Math.log(5));
    expect(n).toBeGreaterThan(2800);
    expect(Math.abs((verbs.review?.mu ?? 0) - usual)).toBeLessThan(0.06);
    expect(Math.abs(load.slope - 0.4)).toBeLessThan(0.06);
    for (const [i, who] of ['petra', 'noor', 'yuki', 'oskar'].entries()) {
      expect(Math.abs((people[`${who}/review`]?.mu ?? 0) - usual - (i - 1.5) * 0.4)).toBeLessThan(0.1);
      expect(Math.abs((people[`${who}/review`]?.sigma ?? 0) - 0.7)).toBeLessThan(0.08);
    }
  });

  it('would believe that everybody is quick if it left out what is still open', () => {
    const samples = past(4000);
    const whole = learn(samples, nothing, start).verbs.review?.mu ?? 0;
    const finished = learn(samples.filter(({ done }) => done).concat(past(10)), nothing, start).verbs.review?.mu ?? 0;
    const cut =
      learn(
        samples.map((sample) => ({ ...sample, done: true })),
        nothing,
        start,
      ).verbs.review?.mu ?? 0;
    expect(cut).toBeLessThan(whole - 0.1);
    expect(finished).toBeLessThan(whole + 0.1);
  });

  it('draws somebody of whom little is known towards the verb, the more the less that is', () => {
    const many = past(2000);
    const slow = (n: number) =>
      learn(
        [
          ...many,
          ...Array.from({ length: n }, () => ({
            who: 'new',
            verb: 'review' as const,
            minutes: 6000,
            open: 3,
            done: true,
          })),
        ],
        nothing,
        start,
      );
    const distance = (n: number) => (slow(n).people['new/review']?.mu ?? 0) - (slow(n).verbs.review?.mu ?? 0);
    expect(distance(1)).toBeGreaterThan(0);
    expect(distance(1)).toBeLessThan(distance(5));
    expect(distance(5)).toBeLessThan(distance(60));
    expect(distance(60)).toBeLessThan(Math.log(6000 / 600) + 0.3);
  });

  it('counts returns, what is kept, comments, reworks and releases, drawn towards the usual where there are few', () => {
    const happened: Happened = {
      returns: { review: { of: 50, among: 480 } },
      kept: { of: 0, among: 0 },
      withComments: { of: 180, among: 180 },
      reworks: Array.from({ length: 300 }, () => 90),
      releases: [],
    };
    const model = learn(past(50), happened, start);
    expect(model.returns).toEqual({ review: 102 });
    expect([model.kept, model.withComments]).toEqual([500, 920]);
    expect(Math.exp(model.rework.mu)).toBeLessThan(100);
    expect(Math.exp(model.release.mu)).toBeCloseTo(120);
    const none = learn([], nothing, start);
    expect([none.n, none.load.slope, none.verbs]).toEqual([0, 0, {}]);
  });
});

describe('the normal distribution', () => {
  it('is what tables of it say', () => {
    // Abramowitz and Stegun, table 26.1 and 26.5.
    for (const [z, p] of [
      [0, 0.5],
      [1, 0.8413447],
      [1.96, 0.9750021],
      [-1.28, 0.1002726],
    ] as const) {
      expect(below(z)).toBeCloseTo(p, 6);
      expect(quantile(p)).toBeCloseTo(z, 3);
    }
    expect(above(0).mean).toBeCloseTo(Math.sqrt(2 / Math.PI), 6);
    expect(above(0).variance).toBeCloseTo(1 - 2 / Math.PI, 5);
    expect(above(3).mean).toBeCloseTo(3.2831, 3);
    expect(above(6).mean).toBeGreaterThan(6);
    expect(above(-6).mean).toBeCloseTo(0, 6);
  });
});
