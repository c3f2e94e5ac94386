import type { Instant } from '../time/instant';
import type { Course } from './course';
import { simulate } from './simulate';
import { horizon, instantOfTick, startAt, type Ticks, tick, workday, workedOff } from './ticks';

/** The certainties that a forecast is told at, and that experience is kept of. */
const certainties = [0.5, 0.8, 0.95] as const;

/** By how much experience stretches the dates at each certainty; nothing to begin with. */
export type Tracking = readonly [number, number, number];
export const untracked: Tracking = [0, 0, 0];
/** How much one outcome moves it. */
const pace = 0.08;

/** Why there is no forecast. */
export type Unreliable = 'history' | 'wide' | 'far' | 'paused' | 'closed';

/** When a circulation will be released, as far as can be said. */
export interface Forecast {
  readonly at: Instant;
  /** At 50, 80 and 95 per cent. */
  readonly dates: readonly [Instant, Instant, Instant];
  /** Why nobody should rely on the dates; null where one may. */
  readonly unreliable: Unreliable | null;
  /** How likely, in per cent, it is done by its due; null where none is set. */
  readonly chance: number | null;
  /** In how many per cent of cases each seat decides when it is done, the most first; those of less than five are left out. */
  readonly decides: readonly { readonly seat: string; readonly percent: number }[];
  /** The middle of when each stage that is still to come begins and ends. */
  readonly stages: readonly { readonly stage: string; readonly from: Instant; readonly to: Instant }[];
}

/** What turns runs into dates. */
interface Reading {
  readonly now: Instant;
  readonly due: Instant | null;
  readonly tracking: Tracking;
  /** The working time of the organization, on which experience stretches dates. */
  readonly home: Ticks;
  readonly runs: number;
}

/** The value below which a share of an ascending list lies. */
export function atShare(sorted: Int32Array, share: number): number {
  return sorted[Math.min(sorted.length - 1, Math.ceil(share * sorted.length) - 1)] as number;
}

/** The ends of a simulation, ascending, stretched by what experience says of each certainty. */
function stretched(ends: Int32Array, { tracking, home }: Pick<Reading, 'tracking' | 'home'>): Int32Array {
  const sorted = ends.slice().sort();
  const work = sorted.map((end) => home.workAt[end] as number);
  const spread = Math.min(1.5, Math.max(0.1, Math.log((atShare(work, 0.8) + 2) / (atShare(work, 0.5) + 2))));
  if (tracking.every((theta) => theta === 0)) return sorted;
  let last = 0;
  for (let i = 0; i < sorted.length; i += 1) {
    const theta = thetaAt(tracking, (i + 0.5) / sorted.length);
    const longer = Math.round((work[i] as number) * Math.exp(spread * theta));
    // What is moved keeps its place within the working day by its work; what lies outside it does not move by itself.
    const end = longer === work[i] ? (sorted[i] as number) : Math.min(horizon, workedOff(home, 0, longer));
    last = Math.max(last, end);
    sorted[i] = last;
  }
  return sorted;
}

/** The stretch at a certainty, between those that are known. */
function thetaAt(tracking: Tracking, share: number): number {
  const [low, middle, high] = tracking;
  if (share <= 0.5) return low;
  if (share <= 0.8) return low + ((share - 0.5) / 0.3) * (middle - low);
  return middle + Math.min(1, (share - 0.8) / 0.15) * (high - middle);
}

/** The forecast of a course. Equal courses give equal forecasts, on every machine. */
export function forecastOf(course: Course, reading: Reading): Forecast {
  const { now, due, runs, home } = reading;
  const start = startAt(now);
  const { ends, decides, stages } = simulate(course, runs);
  const sorted = stretched(ends, reading);
  const at = certainties.map((share) => atShare(sorted, share));
  const [half, most, nearly] = at.map((end) => Math.max(now, instantOfTick(start, end))) as [Instant, Instant, Instant];
  const dueTick = due === null ? null : Math.floor((due - start) / tick);
  return {
    at: now,
    dates: [half, most, nearly],
    unreliable: unreliable(at, home),
    chance: dueTick === null ? null : Math.round((100 * sorted.filter((end) => end <= dueTick).length) / runs),
    decides: [...decides]
      .map(([seat, count]) => ({ seat, percent: Math.round((100 * count) / runs) }))
      .filter(({ percent }) => percent >= 5)
      .sort((a, b) => b.percent - a.percent || (a.seat < b.seat ? -1 : 1)),
    stages: [...stages].map(([stage, { from, to }]) => ({
      stage,
      from: instantOfTick(start, from),
      to: instantOfTick(start, to),
    })),
  };
}

/** Dates that nobody could plan with: three times as far at four of five as at one of two, or beyond the horizon. */
function unreliable([half, most, nearly]: readonly number[], { workAt }: Ticks): Unreliable | null {
  if ((nearly as number) >= horizon) return 'far';
  const [w50, w80] = [workAt[half as number] as number, workAt[most as number] as number];
  // Within a day it is never wide: what is nearly done is not unreliable because it may be done at once.
  return w80 > 3 * w50 && w80 - w50 > 5 * workday ? 'wide' : null;
}

/**
 * What experience says after one more forecast has come true or not: each certainty is moved by whether it was late, so that
 * in the long run it holds as often as it says (quantile tracking). A forecast counts as late once its date has passed.
 */
export function tracked(
  tracking: Tracking,
  dates: Forecast['dates'],
  released: Instant | null,
  now: Instant,
): Tracking | null {
  const late = dates.map((date) => (released ?? now) > date);
  // While it is under way, nothing is known of the dates that are still to come.
  if (released === null && late.some((is) => !is)) return null;
  return tracking.map((theta, i) => {
    const moved = theta + pace * ((late[i] ? 1 : 0) - (1 - (certainties[i] as number)));
    return Math.round(1e6 * Math.min(4, Math.max(-4, moved))) / 1e6;
  }) as unknown as Tracking;
}
