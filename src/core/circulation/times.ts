import type { Earliest, Instant, Time } from '../route/route';
import { usualCalendar } from '../time/calendar';
import { after, type Clock, timeFor } from '../time/due';
import type { Context } from './commands';
import type { Wait } from './events';
import { actingAs, holders } from './holders';
import { baseHolder, type Circulation, earlier, type SeatRun, scopeOf, seatPlan, stagePlanOf, waitOf } from './state';

// When a seat is due, closes, and may first be acted on. Computed once, when somebody is asked or opens the content, and
// stored with the event.

/** The clock of a person, and the calendar by which dates count. */
export function clockOf({ people, calendars, home }: Context, person: string | null): Clock {
  const facts = person === null ? undefined : people.get(person);
  const common = (home.calendar !== null && calendars.get(home.calendar)) || usualCalendar;
  const own = (facts?.calendar && calendars.get(facts.calendar)) || common;
  return { zone: facts?.zone ?? home.zone, own, common };
}

type Named = Pick<Circulation, 'plan' | 'retired' | 'stages'>;

/** What says when a seat is due and closes: what was given to it, its own plan, or its stage. */
export function targetsOf(state: Named, seat: SeatRun): { readonly due: Time | null; readonly closes: Time | null } {
  const stage = state.stages.get(seat.stage);
  const own = seatPlan(state, seat.id);
  // Instants that were planned for a seat fall with its stage's times being given anew.
  const holds = (time: Time | null) => (time && stage?.retimed && time.kind === 'instant' ? null : time);
  return {
    due: holds(own?.due ?? null) ?? stage?.due ?? null,
    closes: holds(own?.closes ?? null) ?? stage?.closes ?? null,
  };
}

/** When a seat would be due and close if it were asked now; nobody is due before they may respond, nor after it closes. */
export function timesWhenAsked(
  state: Circulation,
  seat: SeatRun,
  waits: readonly Wait[],
  context: Context,
): { readonly due: Instant | null; readonly closes: Instant | null } {
  const { now } = context;
  const base = baseHolder(seat)?.person ?? null;
  const clock = clockOf(context, base);
  const targets = targetsOf(state, seat);
  const closes = seat.given ? (seat.given.closes ?? null) : timeFor(targets.closes, now, clock);
  const from = base === null ? null : (waits.findLast((wait) => wait.person === base)?.from ?? null);
  const target = seat.given?.due ?? dueFrom(targets.due, now, from, clock);
  return { due: target === null ? null : earlier(target, closes), closes };
}

/** A due time for somebody who may respond from `from` on: the later of it and what counts from then. */
function dueFrom(due: Time | null, asked: Instant, from: Instant | null, clock: Clock): Instant | null {
  if (due === null) return null;
  const begins = Math.max(asked, from ?? asked);
  const at = timeFor(due, begins, clock);
  return at === null ? null : Math.max(at, begins);
}

/** What a wait counts from when `person` is asked now; null while it has to begin with their opening the content. */
function sinceWhenAsked(
  state: Circulation,
  seat: SeatRun,
  earliest: Earliest,
  person: string,
  now: Instant,
  scope: string,
) {
  if (earliest.kind === 'date') return now;
  // Time to think belongs to the text seen: it goes on over rounds, and begins again with other content where it is set so.
  const before = seat.waits.find(
    (wait) => wait.person === person && wait.since !== null && (!earliest.again || wait.scope === scope),
  );
  if (before) return before.since;
  if (earliest.from === 'asked') return now;
  if (earliest.from === 'opened') return null;
  // One that is skipped or passed by counts from that moment.
  return state.stages.get(earliest.from.stage)?.ended ?? now;
}

/** The waits of people who are asked now: none where the stage has no earliest time. */
export function waitsWhenAsked(state: Circulation, seat: SeatRun, people: readonly string[], context: Context): Wait[] {
  const { earliest } = stagePlanOf(state, seat);
  if (!earliest) return [];
  const scope = scopeOf(state, seat) ?? '';
  return people.map((person) => {
    const since = sinceWhenAsked(state, seat, earliest, person, context.now, scope);
    return { person, scope, since, from: fromOf(earliest, since, clockOf(context, person)) };
  });
}

function fromOf(earliest: Earliest, since: Instant | null, clock: Clock): Instant | null {
  if (earliest.kind === 'date') return earliest.at;
  return since === null ? null : after(since, earliest, clock);
}

/** The wait that begins with somebody opening the content now; null where none does. */
export function waitWhenOpened(state: Circulation, seat: SeatRun, person: string, context: Context): Wait | null {
  const { earliest } = stagePlanOf(state, seat);
  if (earliest?.kind !== 'wait' || earliest.from !== 'opened') return null;
  const scope = scopeOf(state, seat) ?? '';
  const before = waitOf(seat, person);
  if (before?.since != null && (!earliest.again || before.scope === scope)) return null;
  return { person, scope, since: context.now, from: after(context.now, earliest, clockOf(context, person)) };
}

/** The due time after somebody's wait has begun: the later counts, and a closing time is never moved. */
export function dueWhenOpened(state: Circulation, seat: SeatRun, wait: Wait, context: Context): Instant | null {
  if (seat.due === null || wait.from === null) return null;
  const moved = dueFrom(targetsOf(state, seat).due, context.now, wait.from, clockOf(context, wait.person));
  const due = earlier(Math.max(seat.due, moved ?? wait.from), seat.closes) as Instant;
  return due === seat.due ? null : due;
}

/** Whether somebody still has to wait: until an instant, or until they have opened the content. Null when they need not. */
export function waitsUntil(
  state: Circulation,
  seat: SeatRun,
  person: string,
  context: Context,
): Instant | 'opened' | null {
  const { earliest } = stagePlanOf(state, seat);
  if (!earliest) return null;
  // Whoever came to the seat by their group since it was asked waits as if they had been asked with the others; for whoever
  // covers it counts from when they came to it.
  const acting = actingAs(state, seat, person, context);
  const came = Math.max(seat.since ?? context.now, acting?.cover.length ? (acting.since ?? 0) : 0);
  const own = waitOf(seat, person) ?? waitsWhenAsked(state, seat, [person], { ...context, now: came })[0];
  if (!own || own.from === null) return 'opened';
  return own.from > context.now ? own.from : null;
}

/** The people who would be asked if a seat were asked now, whoever covers for one of them among them. */
export function askedNow(state: Circulation, seat: SeatRun, context: Context): string[] {
  return holders(state, seat, context).map(({ person }) => person);
}
