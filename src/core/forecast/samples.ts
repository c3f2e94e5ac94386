import { minute } from '../time/calendar';
import type { Instant } from '../time/instant';
import { type Presence, presentBetween } from '../time/presence';
import type { Happened, Sample } from './fit';
import { countsOf, type Past, type Turn } from './past';

/**
 * What a model is fitted from: every turn of the past, and those that are open now, in the working time of whoever had it,
 * with how many they had when it came.
 */
export function samplesOf(
  pasts: readonly Past[],
  openTurns: readonly Turn[],
  presence: (who: string) => Presence,
  now: Instant,
): { readonly samples: readonly Sample[]; readonly happened: Happened } {
  const turns = [...pasts.flatMap((past) => past.turns), ...openTurns];
  const minutesOf = (who: string, from: Instant, to: Instant) =>
    presentBetween(presence(who), from, Math.max(from, to)) / minute;
  const byWho = new Map<string, Turn[]>();
  for (const turn of turns) {
    const own = byWho.get(turn.who);
    if (own) own.push(turn);
    else byWho.set(turn.who, [turn]);
  }
  const samples: Sample[] = [];
  for (const own of byWho.values()) {
    const begins = own.map(({ from }) => from).sort((a, b) => a - b);
    const ends = own.map(({ to }) => to ?? Number.POSITIVE_INFINITY).sort((a, b) => a - b);
    for (const { who, verb, from, to, responded } of own)
      samples.push({
        who,
        verb,
        minutes: minutesOf(who, from, to ?? now),
        // Those that had come by then, itself among them, without those that had gone.
        open: Math.max(1, upTo(begins, from) - upTo(ends, from)),
        done: responded,
      });
  }
  return {
    samples,
    happened: {
      ...countsOf(pasts),
      reworks: pasts.flatMap(({ reworks }) => reworks.map(({ who, from, to }) => minutesOf(who, from, to))),
      releases: pasts.flatMap(({ releases }) => releases.map(({ who, from, to }) => minutesOf(who, from, to))),
    },
  };
}

/** How many of an ascending list are at most a value. */
function upTo(sorted: readonly number[], value: number): number {
  let low = 0;
  let high = sorted.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((sorted[middle] as number) <= value) low = middle + 1;
    else high = middle;
  }
  return low;
}
