import { type Absence, absenceAt, coverChain, isAway } from '../people/cover';
import { type Clock, timeFor } from '../time/due';
import type { Instant } from '../time/instant';
import { personOf, type Route, type Seat, type Series, type Stage } from './route';

/** By seat: when it is due if each stage before it ends when it is due; where it has no due time, when it is asked. */
export function expectedDues(
  route: Series,
  now: Instant,
  clock: (person: string | null) => Clock,
): ReadonlyMap<string, Instant> {
  const dues = new Map<string, Instant>();
  const walk = (part: Route, from: Instant): Instant => {
    if (part.kind === 'copies') return from;
    if (part.kind === 'series') return part.parts.reduce((at, inner) => walk(inner, at), from);
    if (part.kind === 'parallel') return Math.max(...part.branches.map((branch) => walk(branch.route, from)));
    for (const seat of part.seats) dues.set(seat.id, dueOfSeat(part, seat, from, clock));
    return Math.max(from, ...part.seats.map(({ id }) => dues.get(id) ?? from));
  };
  walk(route, now);
  return dues;
}

function dueOfSeat(stage: Stage, seat: Seat, from: Instant, clock: (person: string | null) => Clock): Instant {
  return Math.max(from, timeFor(seat.due ?? stage.due, from, clock(personOf(seat.assignment))) ?? from);
}

/**
 * The absence in which somebody would have to respond at an instant and nobody is there who covers, because whoever would is
 * cut or away themselves; null where there is none.
 */
export function uncoveredAt(
  absences: readonly Absence[],
  person: string,
  { verb }: Stage,
  type: string | null,
  at: Instant,
  isCut: (person: string) => boolean,
): Absence | null {
  const absence = absenceAt(absences, person, at);
  if (!absence) return null;
  const chain = coverChain(absences, person, { verb, type }, at, isCut);
  const by = chain?.at(-1)?.by;
  return by === undefined || isAway(absences, by, at) ? absence : null;
}
