import type { Earliest, Time } from '../../route/route';
import { usualCalendar } from '../../time/calendar';
import { after, type Clock, timeFor } from '../../time/due';
import type { Instant } from '../../time/instant';
import type { Context } from './context';
import { type Acting, actingAs, holders } from './holders';
import type { SeatRun, Wait } from './shapes';
import {
  baseHolder,
  type Circulation,
  earlier,
  openedAt,
  scopeOf,
  seatPlan,
  sentAt,
  stagePlanOf,
  waitOf,
} from './state';

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

/** What a wait counts from for `person`, who is asked at `asked`; null while it has to begin with their opening the content. */
function sinceFor(
  state: Circulation,
  seat: SeatRun,
  earliest: Earliest,
  person: string,
  asked: Instant,
): Instant | null {
  if (earliest.kind === 'date') return asked;
  const scope = scopeOf(state, seat);
  // Time to think belongs to the text seen: it goes on over rounds, and begins again with other content where it is set so.
  const before = seat.waits.find(
    (wait) => wait.person === person && wait.since !== null && (!earliest.again || wait.scope === scope),
  );
  if (before) return before.since;
  // What somebody was sent or has opened in another seat they have had the time to think over.
  if (earliest.from === 'asked') return sentAt(state, person, scope) ?? asked;
  if (earliest.from === 'opened') return openedAt(state, person, scope);
  // One that is skipped or passed by counts from that moment.
  return state.stages.get(earliest.from.stage)?.ended ?? asked;
}

/** The waits of people who are asked now: none where the stage has no earliest time. */
export function waitsWhenAsked(state: Circulation, seat: SeatRun, people: readonly string[], context: Context): Wait[] {
  const { earliest } = stagePlanOf(state, seat);
  if (!earliest) return [];
  const scope = scopeOf(state, seat) ?? '';
  return people.map((person) => {
    const since = sinceFor(state, seat, earliest, person, context.now);
    return { person, scope, since, from: fromOf(earliest, since, clockOf(context, person)) };
  });
}

function fromOf(earliest: Earliest, since: Instant | null, clock: Clock): Instant | null {
  if (earliest.kind === 'date') return earliest.at;
  return since === null ? null : after(since, earliest, clock);
}

/** The newest wait of a person on a seat for what it asks now; null where nothing was counted for them, or for other content. */
function waitNow(state: Circulation, seat: SeatRun, earliest: Earliest, person: string): Wait | null {
  const wait = waitOf(seat, person);
  return wait && earliest.kind === 'wait' && earliest.again && wait.scope !== scopeOf(state, seat) ? null : wait;
}

/** The wait that begins with somebody opening the content now; null where none does. */
export function waitWhenOpened(state: Circulation, seat: SeatRun, person: string, context: Context): Wait | null {
  const { earliest } = stagePlanOf(state, seat);
  if (earliest?.kind !== 'wait' || earliest.from !== 'opened') return null;
  if ((waitNow(state, seat, earliest, person)?.since ?? null) !== null) return null;
  const scope = scopeOf(state, seat) ?? '';
  return { person, scope, since: context.now, from: after(context.now, earliest, clockOf(context, person)) };
}

/** From when somebody who may act may respond: an instant, which may have passed, or null until they have opened the content. */
function respondsFrom(
  state: Circulation,
  seat: SeatRun,
  acting: Pick<Acting, 'person' | 'cover' | 'since'>,
  context: Context,
): Instant | null {
  const { earliest } = stagePlanOf(state, seat);
  if (!earliest) return 0;
  const { person } = acting;
  const own = waitNow(state, seat, earliest, person);
  if (own) return own.from;
  // Whoever came to the seat by their group since it was asked waits as if they had been asked with the others; for whoever
  // covers it counts from when they came to it.
  const asked = Math.max(seat.since ?? context.now, acting.cover.length > 0 ? (acting.since ?? 0) : 0);
  return fromOf(earliest, sinceFor(state, seat, earliest, person, asked), clockOf(context, person));
}

/** Whether somebody still has to wait: until an instant, or until they have opened the content. Null when they need not. */
export function waitsUntil(
  state: Circulation,
  seat: SeatRun,
  person: string,
  context: Context,
): Instant | 'opened' | null {
  if (!stagePlanOf(state, seat).earliest) return null;
  const acting = actingAs(state, seat, person, context) ?? { person, cover: [], since: null };
  const from = respondsFrom(state, seat, acting, context);
  if (from === null) return 'opened';
  return from > context.now ? from : null;
}

/** When the first of those who may act on a seat may respond; null where each has to open it first, or nobody may act. */
function firstResponds(state: Circulation, seat: SeatRun, context: Context): Instant | null {
  let first: Instant | null = null;
  for (const acting of holders(state, seat, context))
    first = earlier(first, respondsFrom(state, seat, acting, context));
  return first;
}

/** Whether nobody who may act on a seat may respond yet, though the time when they may is known. */
export function allWait(state: Circulation, seat: SeatRun, context: Context): boolean {
  if (!stagePlanOf(state, seat).earliest) return false;
  const acting = holders(state, seat, context);
  return acting.length > 0 && acting.every((one) => (respondsFrom(state, seat, one, context) ?? 0) > context.now);
}

/** The people who would be asked if a seat were asked now, whoever covers for one of them among them. */
export function askedNow(state: Circulation, seat: SeatRun, context: Context): string[] {
  return holders(withSeat(state, seat), seat, context).map(({ person }) => person);
}

/** A state with one of its seats as it would be. */
function withSeat(state: Circulation, seat: SeatRun): Circulation {
  return { ...state, seats: new Map(state.seats).set(seat.id, seat) };
}

/**
 * When a seat is due and closes that is asked at `asked` with these waits. A due counts from when the first of those
 * who may act may respond, so that nobody is late before they could; a closing time is never moved.
 */
export function timesWhenAsked(
  state: Circulation,
  seat: SeatRun,
  waits: readonly Wait[],
  context: Context,
  asked: Instant = context.now,
): { readonly due: Instant | null; readonly closes: Instant | null } {
  const clock = clockOf(context, baseHolder(seat)?.person ?? null);
  const targets = targetsOf(state, seat);
  const closes = seat.given?.closes ?? timeFor(targets.closes, asked, clock);
  let first = asked;
  if (stagePlanOf(state, seat).earliest) {
    const then = { ...seat, since: asked, waits: [...seat.waits, ...waits.map((wait) => ({ ...wait, told: false }))] };
    first = Math.max(asked, firstResponds(withSeat(state, then), then, context) ?? asked);
  }
  const due = seat.given?.due ?? timeFor(targets.due, first, clock);
  return { due: due === null ? null : earlier(Math.max(due, first), closes), closes };
}

/** The due of a seat as it would be, whose people may all respond only later: it counts from when the first of them may. */
export function dueMoved(state: Circulation, seat: SeatRun, context: Context): Instant | null {
  if (seat.due === null || !stagePlanOf(state, seat).earliest) return seat.due;
  const first = firstResponds(withSeat(state, seat), seat, context);
  if (first === null || first <= context.now) return seat.due;
  const counted = timeFor(targetsOf(state, seat).due, first, clockOf(context, baseHolder(seat)?.person ?? null));
  return earlier(Math.max(seat.due, counted ?? first, first), seat.closes);
}
