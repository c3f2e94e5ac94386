import { describe, expect, it } from 'vitest';
import { drawsFrom, hour, start } from '../../../test/properties/arbitrary';
import { fork, route, stage } from '../../../test/properties/scene';
import { playedOut, sentWorld, worldContext } from '../../../test/properties/world';
import type { Circulation } from '../circulation/run/state';
import type { Series } from '../route/route';
import { courseOf } from './compile';
import { type Model, tailOf } from './model';
import { simulate } from './simulate';
import { startAt, tick } from './ticks';

const spread = (hours: number, sigma: number) => ({ mu: Math.log(hours * 60), sigma, n: 500, tail: tailOf([]) });

/** Parameters that are true in the world of these tests. */
const truth: Model = {
  fitted: start,
  n: 500,
  verbs: {
    contribute: spread(9, 0.7),
    review: spread(12, 0.8),
    approve: spread(6, 1),
    sign: spread(5, 0.9),
    read: spread(3, 0.6),
  },
  people: { 'noor/review': { mu: Math.log(40 * 60), sigma: 0.5, n: 40 } },
  load: { slope: 0, usual: 0 },
  returns: { review: 0, approve: 0 },
  kept: 500,
  withComments: 0,
  rework: { mu: Math.log(10 * 60), sigma: 0.6 },
  release: { mu: Math.log(2 * 60), sigma: 0.5 },
};
const returning: Model = { ...truth, returns: { review: 120, approve: 80 } };

const shapes: Readonly<Record<string, Series>> = {
  'one response': route(stage('a', 'review', ['petra'])),
  'stages after one another': route(
    stage('a', 'review', ['petra']),
    stage('b', 'approve', ['oskar']),
    stage('c', 'read', ['fenna']),
  ),
  'all of four': route(stage('a', 'review', ['petra', 'yuki', 'noor', 'dalia'])),
  'any of three': route(stage('a', 'review', ['petra', 'yuki', 'noor'], { rule: { kind: 'any' } })),
  'two of four': route(stage('a', 'review', ['petra', 'yuki', 'noor', 'dalia'], { rule: { kind: 'atLeast', k: 2 } })),
  'one by one': route(stage('a', 'approve', ['petra', 'oskar', 'benedikt'], { order: 'oneByOne' })),
  'all branches': route(
    fork(
      { kind: 'all' },
      [stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['oskar'])],
      [stage('c', 'review', ['noor'])],
    ),
    stage('d', 'approve', ['benedikt']),
  ),
  'any branch': route(
    fork(
      { kind: 'any' },
      [stage('a', 'review', ['petra', 'yuki']), stage('b', 'approve', ['oskar'])],
      [stage('c', 'review', ['noor'])],
      [stage('e', 'review', ['dalia'])],
    ),
    stage('d', 'approve', ['benedikt']),
  ),
  'a group and an earliest date': route(
    stage('a', 'review', ['group:rescue']),
    stage('b', 'approve', ['oskar'], { earliest: { kind: 'date', at: start + 96 * hour } }),
  ),
};

const runs = 2000;
const endsOf = (state: Circulation, model: Model, now: number) => {
  const { course } = courseOf(state, { context: worldContext(now, 'ines'), model, open: new Map() });
  return simulate(course, runs).ends.sort();
};
const rankIn = (sorted: Int32Array, value: number) => {
  const below = sorted.filter((end) => end < value).length;
  const equal = sorted.filter((end) => end === value).length;
  return (below + equal / 2) / sorted.length;
};

describe('with the true parameters the outcome lies anywhere within the forecast', () => {
  const worlds = 260;
  const meanRank = (route: Series, model: Model, later = 0) => {
    let sum = 0;
    let count = 0;
    const sent = sentWorld(route);
    const sorted = endsOf(sent, model, start);
    for (let i = 0; i < worlds; i += 1) {
      const draws = drawsFrom(1000 + i);
      if (later === 0) {
        const { end } = playedOut(sent, model, draws);
        sum += rankIn(sorted, Math.ceil(((end as number) - startAt(start)) / tick));
        count += 1;
        continue;
      }
      // Looked at again when some have responded and others have been silent for a while.
      const now = start + later;
      const whole = playedOut(sent, model, drawsFrom(1000 + i));
      const { state, end } = playedOut(sent, model, draws, start, now);
      if (end !== null || (whole.end as number) <= now) continue;
      sum += rankIn(endsOf(state, model, now), Math.ceil(((whole.end as number) - startAt(now)) / tick));
      count += 1;
    }
    expect(count).toBeGreaterThan(20);
    return sum / count;
  };

  for (const [name, route] of Object.entries(shapes)) {
    it(`for ${name}`, () => {
      expect(meanRank(route, truth)).toBeGreaterThan(0.45);
      expect(meanRank(route, truth)).toBeLessThan(0.55);
    });
  }
  for (const name of ['stages after one another', 'all of four', 'all branches', 'one by one'] as const)
    it(`for ${name}, where it may be sent back`, () => {
      const rank = meanRank(shapes[name] as Series, returning);
      expect(rank).toBeGreaterThan(0.44);
      expect(rank).toBeLessThan(0.56);
    });
  for (const name of ['stages after one another', 'all of four', 'all branches'] as const)
    it(`for ${name}, looked at under way`, () => {
      const rank = meanRank(shapes[name] as Series, truth, 30 * hour);
      expect(rank).toBeGreaterThan(0.44);
      expect(rank).toBeLessThan(0.56);
    });
});
