import type { CirculationEvent } from '../circulation/run/events';
import { evolve } from '../circulation/run/evolve';
import { baseHolder, type Circulation, clocksRun, stagePlanOf } from '../circulation/run/state';
import { type Verb, verbs } from '../route/verbs';
import type { Instant } from '../time/instant';
import type { Count } from './fit';

/** One time that somebody was asked, and how long that lasted. */
export interface Turn {
  /** A person, or `group:` and a group. */
  readonly who: string;
  readonly verb: Verb;
  readonly from: Instant;
  /** When they responded, or when it was taken from them; null where they are still asked. */
  readonly to: Instant | null;
  readonly responded: boolean;
}

/** What one circulation teaches about how long things take. */
export interface Past {
  readonly turns: readonly Turn[];
  readonly returns: Readonly<Partial<Record<Verb, Count>>>;
  readonly kept: Count;
  readonly withComments: Count;
  readonly reworks: readonly { readonly who: string; readonly from: Instant; readonly to: Instant }[];
  readonly releases: readonly { readonly who: string; readonly from: Instant; readonly to: Instant }[];
}

const returnable: readonly Verb[] = ['review', 'approve', 'sign'];

/**
 * What a circulation teaches, from its events alone. A turn that ends without a response (passed on, missed, released, held
 * by a pause) teaches only that it would have taken longer.
 */
export function pastOf(events: readonly CirculationEvent[]): Past {
  const turns: Turn[] = [];
  const returns: Partial<Record<Verb, { of: number; among: number }>> = {};
  const kept = { of: 0, among: 0 };
  const withComments = { of: 0, among: 0 };
  const reworks: { who: string; from: Instant; to: Instant }[] = [];
  const releases: { who: string; from: Instant; to: Instant }[] = [];
  const open = new Map<string, Omit<Turn, 'to' | 'responded'> & { readonly epoch: number }>();
  let state: Circulation | null = null;
  let reworked: Instant | null = null;
  let responded: Instant | null = null;
  const end = (seat: string, to: Instant, done: boolean) => {
    const turn = open.get(seat);
    open.delete(seat);
    if (turn) turns.push({ who: turn.who, verb: turn.verb, from: turn.from, to, responded: done });
  };
  for (const event of events) {
    const before: Circulation | null = state;
    state = evolve(before, event);
    const { at } = event;
    if (event.type === 'seat.decided' && before) {
      const { seat, outcome } = event.data;
      const run = before.seats.get(seat);
      const verb = run ? stagePlanOf(before, run).verb : null;
      end(seat, at, outcome !== 'declined');
      if (verb && returnable.includes(verb) && outcome !== 'declined') {
        const count = returns[verb] ?? { of: 0, among: 0 };
        returns[verb] = { of: count.of + (outcome === 'returned' ? 1 : 0), among: count.among + 1 };
      }
      if (outcome === 'approved' || outcome === 'approvedWithComments') {
        withComments.among += 1;
        if (outcome === 'approvedWithComments') withComments.of += 1;
      }
    } else if (event.type === 'rework.began') reworked = at;
    else if (event.type === 'round.begun') {
      if (reworked !== null) reworks.push({ who: state.author, from: reworked, to: at });
      reworked = null;
      kept.of += event.data.keep.length;
      kept.among += (before?.decisions ?? []).filter(({ round }) => round === before?.round).length;
    } else if (event.type === 'finishing.began') responded = at;
    else if (event.type === 'circulation.completed' && responded !== null && !state.releasesItself)
      releases.push({ who: state.controller, from: responded, to: at });
    // Whoever is asked, by the state itself, whatever event it was that asked them or ended it.
    for (const [seat, { epoch }] of open) {
      const run = state.seats.get(seat);
      if (!clocksRun(state) || run?.status !== 'asked' || run.gone || run.epoch !== epoch) end(seat, at, false);
    }
    if (clocksRun(state))
      for (const seat of state.seats.values())
        if (seat.status === 'asked' && !seat.gone && !open.has(seat.id)) {
          const who = seat.group ? `group:${seat.group}` : baseHolder(seat)?.person;
          // Nobody could respond before their earliest time, so that it does not count as theirs.
          const from = Math.max(at, ...seat.waits.map((wait) => wait.from ?? at));
          if (who) open.set(seat.id, { who, verb: stagePlanOf(state, seat).verb, from, epoch: seat.epoch });
        }
  }
  for (const { who, verb, from } of open.values()) turns.push({ who, verb, from, to: null, responded: false });
  return { turns, returns, kept, withComments, reworks, releases };
}

/** The counts of many circulations together. */
export function countsOf(pasts: readonly Past[]): Pick<Past, 'returns' | 'kept' | 'withComments'> {
  const sum = (counts: readonly Count[]) =>
    counts.reduce((all, count) => ({ of: all.of + count.of, among: all.among + count.among }), { of: 0, among: 0 });
  return {
    returns: Object.fromEntries(verbs.map((verb) => [verb, sum(pasts.flatMap(({ returns }) => returns[verb] ?? []))])),
    kept: sum(pasts.map(({ kept }) => kept)),
    withComments: sum(pasts.map(({ withComments }) => withComments)),
  };
}
