import type { Command, CommandOf } from '@/core/circulation/acts/commands';
import { decide } from '@/core/circulation/acts/decide';
import { proposedLines, roundBasis } from '@/core/circulation/rounds/round';
import { holders } from '@/core/circulation/run/holders';
import { baseHolder, type Circulation, scopeOf, stagePlanOf } from '@/core/circulation/run/state';
import { clockOf, waitsUntil } from '@/core/circulation/run/times';
import type { Model, Spread } from '@/core/forecast/model';
import { standardFacts } from '@/core/route/facts';
import type { Series } from '@/core/route/route';
import { verbFacts } from '@/core/route/verbs';
import { addWorking, axisOf } from '@/core/time/calendar';
import {
  author,
  contextOf,
  controller,
  created,
  type Draws,
  factNames,
  factTypes,
  start,
  versionOf,
} from './arbitrary';

/** Somebody's luck: a standard normal number (Box and Muller). */
const normal = (draws: Draws) =>
  Math.sqrt(-2 * Math.log((draws.below(1_000_000) + 0.5) / 1_000_000)) *
  Math.cos(2 * Math.PI * (draws.below(1_000_000) / 1_000_000));

const minutesOf = (draws: Draws, { mu, sigma }: Spread) => Math.exp(mu + sigma * normal(draws));
export const worldContext = (now: number, actor: string) => ({ ...contextOf(now, actor), absences: [] });

/** A circulation that has just been sent. */
export function sentWorld(route: Series): Circulation {
  let state = created(route).state as Circulation;
  const put = (command: Command, actor: string) => {
    const result = decide(state, command, worldContext(start, actor));
    if (!result.ok) throw new Error(`${command.type}: ${result.refusal.code} ${JSON.stringify(result.refusal.facts)}`);
    state = result.state;
  };
  put({ type: 'attach', version: versionOf(1, 1, 1) }, author);
  put({ type: 'giveFacts', facts: standardFacts(factTypes), names: factNames }, author);
  put({ type: 'send', releasesItself: false }, controller);
  return state;
}

/**
 * Plays a sent circulation with the engine itself, everybody taking as long, returning as often and keeping as much as the
 * model says, in instants and by the calendars. Gives when it is released; `until` stops it there and gives its state then.
 */
export function playedOut(
  given: Circulation,
  model: Model,
  draws: Draws,
  from = start,
  until = Number.POSITIVE_INFINITY,
) {
  let state = given;
  let now = from;
  const later = (person: string | null, minutes: number) => {
    const { own, zone } = clockOf(worldContext(now, controller), person);
    return addWorking(axisOf(own, zone), now, minutes * 60_000) as number;
  };
  const put = (command: Command, actor: string) => {
    const result = decide(state, command, worldContext(now, actor));
    if (!result.ok) throw new Error(`${command.type}: ${result.refusal.code}`);
    state = result.state;
  };
  const planned = new Map<string, number>();
  for (let guard = 0; guard < 500; guard += 1) {
    if (state.phase === 'rework') {
      now = later(author, minutesOf(draws, model.rework));
      if (now > until) return { state, end: null };
      put({ type: 'attach', version: versionOf((state.versions.length ?? 0) + 1, 1, 1) }, author);
      const lines = proposedLines(state, worldContext(now, controller));
      const keep = lines.filter((line) => line.keep && draws.chance(model.kept / 1000)).map(({ seat }) => seat);
      put(
        { type: 'confirmRound', basis: roundBasis(state, worldContext(now, controller)), keep, leave: [], times: [] },
        controller,
      );
      planned.clear();
      continue;
    }
    if (state.phase !== 'running') {
      const end = later(controller, minutesOf(draws, model.release));
      return { state, end };
    }
    for (const seat of state.seats.values()) {
      const key = `${seat.id}/${state.round}`;
      if (seat.status !== 'asked' || planned.has(key)) continue;
      const person = baseHolder(seat)?.person ?? null;
      const { verb } = stagePlanOf(state, seat);
      const spread = (person && model.people[`${person}/${verb}`]) || model.verbs[verb];
      const at = later(person, minutesOf(draws, spread as Spread));
      const wait = person ? waitsUntil(state, seat, person, worldContext(now, person)) : null;
      planned.set(key, Math.max(at, typeof wait === 'number' ? wait : 0));
    }
    const [next] = [...state.seats.values()]
      .filter((seat) => seat.status === 'asked')
      .map((seat) => ({ seat, at: planned.get(`${seat.id}/${state.round}`) as number }))
      .sort((a, b) => a.at - b.at);
    if (!next) throw new Error('nobody is asked');
    now = Math.max(now, next.at);
    if (now > until) return { state, end: null };
    const { seat } = next;
    const actor = baseHolder(seat)?.person ?? holders(state, seat, worldContext(now, controller))[0]?.person ?? '';
    const { verb } = stagePlanOf(state, seat);
    const returns = (verb === 'review' || verb === 'approve') && draws.chance((model.returns[verb] ?? 0) / 1000);
    const command: CommandOf<'decide'> = {
      type: 'decide',
      seat: seat.id,
      epoch: seat.epoch,
      scope: scopeOf(state, seat) ?? '',
      outcome: returns && state.round <= 3 ? 'returned' : verbFacts[verb].yes,
      note: 'w',
      filled: [],
      evidence: null,
    };
    put(command, actor);
  }
  throw new Error('it did not end');
}
