import { courseOf } from '@/core/forecast/compile';
import { forecastOf, untracked } from '@/core/forecast/forecast';
import { type Model, tailOf } from '@/core/forecast/model';
import type { Series } from '@/core/route/route';
import { crew, start } from '../properties/arbitrary';
import { fork, route, stage } from '../properties/scene';
import { sentWorld, worldContext } from '../properties/world';

const spread = (hours: number) => ({ mu: Math.log(hours * 60), sigma: 0.8, n: 500, tail: tailOf([]) });
const model: Model = {
  fitted: start,
  n: 500,
  verbs: { contribute: spread(9), review: spread(12), approve: spread(6), sign: spread(5), read: spread(3) },
  people: {},
  load: { slope: 0.3, usual: Math.log(3) },
  returns: { review: 60, approve: 40 },
  kept: 500,
  withComments: 250,
  rework: spread(8),
  release: spread(2),
};

/** Forty seats: branches of several stages, one by one, k of n, and what follows them. */
function fortySeats(): Series {
  const inner = fork(
    { kind: 'all' },
    [
      stage('a', 'review', crew.slice(0, 6), { rule: { kind: 'atLeast', k: 4 } }),
      stage('b', 'approve', crew.slice(0, 4), { order: 'oneByOne' }),
    ],
    [stage('c', 'review', crew), stage('d', 'review', crew.slice(2, 6), { onReturn: 'gather' })],
    [stage('e', 'contribute', crew.slice(0, 4)), stage('f', 'approve', crew.slice(4))],
  );
  return route(inner, stage('g', 'approve', crew.slice(1, 5)), stage('h', 'read', crew.slice(0, 6)));
}

const state = sentWorld(fortySeats());
if (state.seats.size !== 40) throw new Error(`${state.seats.size} seats`);
const once = (): number => {
  const began = performance.now();
  const { course, home } = courseOf(state, { context: worldContext(start, 'ines'), model, open: new Map() });
  const { dates } = forecastOf(course, { now: start, due: null, tracking: untracked, home, runs: 10_000 });
  if (dates[1] <= start) throw new Error('nothing was forecast');
  return performance.now() - began;
};
for (let i = 0; i < 3; i += 1) once();
const times = Array.from({ length: 9 }, once).sort((a, b) => a - b);
process.stdout.write(`${JSON.stringify({ seconds: (times[4] as number) / 1000 })}\n`);
process.exit(0);
