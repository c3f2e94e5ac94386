import type { Context } from '../circulation/run/context';
import type { CirculationEvent } from '../circulation/run/events';
import { evolve } from '../circulation/run/evolve';
import { type Circulation, clocksRun } from '../circulation/run/state';
import type { Absence } from '../people/cover';
import { axisOf, usualCalendar, workingBetween } from '../time/calendar';
import type { Instant } from '../time/instant';
import { courseOf } from './compile';
import { forecastOf, type Tracking } from './forecast';
import type { Model } from './model';

/** What a forecast was made from. */
export interface Basis {
  readonly state: Circulation;
  readonly context: Context;
  readonly model: Model;
  readonly open: ReadonlyMap<string, number>;
  readonly tracking: Tracking;
}

/** Why a date is not what it was. */
export type Cause =
  /** Time went by, and these who were asked did not respond. */
  | { readonly kind: 'waited'; readonly seats: readonly string[] }
  /** Something happened in the circulation. */
  | { readonly kind: 'happened'; readonly what: CirculationEvent['type']; readonly seat: string | null }
  /** Somebody will be away, or no longer. */
  | { readonly kind: 'away'; readonly person: string }
  /** People have more to do than before, or less. */
  | { readonly kind: 'load' }
  /** The organization's past was looked at again, or what became of earlier forecasts. */
  | { readonly kind: 'history' };

/** By how much one cause moved the 80 % date, in milliseconds of the organization's working time. */
export interface Shift {
  readonly cause: Cause;
  readonly work: number;
}

/** The events that can change when something is done; the others change what is known about it. */
const matters: ReadonlySet<CirculationEvent['type']> = new Set([
  'circulation.sent',
  'circulation.amended',
  'circulation.wentOn',
  'circulation.extended',
  'control.handed',
  'part.decided',
  'group.resolved',
  'seat.asked',
  'seat.named',
  'seat.decided',
  'seat.missed',
  'seat.passed',
  'seat.delegated',
  'seat.reassigned',
  'seat.askedAgain',
  'stage.ruled',
  'rework.began',
  'round.begun',
  'finishing.began',
]);
/** Of the events of one act, the one that people would name. */
const named: readonly CirculationEvent['type'][] = [
  'seat.decided',
  'seat.reassigned',
  'seat.delegated',
  'seat.named',
  'seat.missed',
  'seat.passed',
  'circulation.amended',
  'circulation.extended',
  'round.begun',
  'rework.began',
];

/** The working time between two instants on the organization's clock; negative where the second comes first. */
function workBetween({ home, calendars }: Context, from: Instant, to: Instant): number {
  const calendar = (home.calendar !== null && calendars.get(home.calendar)) || usualCalendar;
  return workingBetween(axisOf(calendar, home.zone), from, to);
}

/**
 * Why the 80 % date is another than it was, one factor after the other on shared draws, so that what each moved adds up to
 * the whole shift: what happened and the time between, absences one by one, what people have to do, the past.
 */
export function shiftsOf(
  before: Basis,
  events: readonly CirculationEvent[],
  after: Basis,
  runs: number,
): { readonly from: Instant; readonly to: Instant; readonly shifts: readonly Shift[] } {
  const dateOf = ({ state, context, model, open, tracking }: Basis, now: Instant): Instant => {
    const { course, home } = courseOf(state, { context: { ...context, now }, model, open });
    return forecastOf(course, { now, due: null, tracking, home, runs }).dates[1];
  };
  const shifts: Shift[] = [];
  let basis = before;
  let now = before.context.now;
  const from = dateOf(basis, now);
  let date = from;
  const step = (cause: Cause, next: Basis, at: Instant) => {
    const moved = dateOf(next, at);
    const work = workBetween(after.context, date, moved);
    const known = shifts.findIndex(({ cause: other }) => sameCause(other, cause));
    const { cause: told, work: sum } = shifts[known] ?? { cause, work: 0 };
    if (known >= 0) shifts[known] = { cause: both(told, cause), work: sum + work };
    else shifts.push({ cause, work });
    [basis, now, date] = [next, at, moved];
  };
  for (const group of actsOf(events)) {
    const at = group[0]?.at ?? now;
    if (at > now) step({ kind: 'waited', seats: askedIn(basis.state) }, basis, at);
    let { state } = basis;
    for (const event of group) state = evolve(state, event);
    const main = named.map((type) => group.find((event) => event.type === type)).find(Boolean) ?? group[0];
    if (!group.some(({ type }) => matters.has(type)) || !main) basis = { ...basis, state };
    else {
      const seat = 'seat' in main.data && typeof main.data.seat === 'string' ? main.data.seat : null;
      step({ kind: 'happened', what: main.type, seat }, { ...basis, state }, now);
    }
  }
  if (after.context.now > now) step({ kind: 'waited', seats: askedIn(basis.state) }, basis, after.context.now);
  for (const person of peopleWhoseAbsencesDiffer(basis.context.absences, after.context.absences)) {
    const absences = [
      ...basis.context.absences.filter((one) => one.person !== person),
      ...after.context.absences.filter((one) => one.person === person),
    ];
    step({ kind: 'away', person }, { ...basis, context: { ...basis.context, absences } }, now);
  }
  step({ kind: 'load' }, { ...basis, context: after.context, open: after.open }, now);
  step({ kind: 'history' }, after, now);
  return { from, to: date, shifts: shifts.filter(({ work }) => work !== 0) };
}

/** Events in the groups in which one act made them. */
function actsOf(events: readonly CirculationEvent[]): CirculationEvent[][] {
  const groups: CirculationEvent[][] = [];
  for (const event of events) {
    const last = groups[groups.length - 1];
    if (last && last[0]?.at === event.at && last[0].actor === event.actor) last.push(event);
    else groups.push([event]);
  }
  return groups;
}

function askedIn(state: Circulation): string[] {
  if (!clocksRun(state)) return [];
  return [...state.seats.values()].filter((seat) => seat.status === 'asked' && !seat.gone).map(({ id }) => id);
}

function sameCause(one: Cause, other: Cause): boolean {
  if (one.kind === 'waited') return other.kind === 'waited';
  return JSON.stringify(one) === JSON.stringify(other);
}

function both(one: Cause, other: Cause): Cause {
  if (one.kind !== 'waited' || other.kind !== 'waited') return one;
  return { kind: 'waited', seats: [...new Set([...one.seats, ...other.seats])] };
}

function peopleWhoseAbsencesDiffer(before: readonly Absence[], after: readonly Absence[]): string[] {
  const of = (all: readonly Absence[], person: string) =>
    JSON.stringify(all.filter((one) => one.person === person).sort((a, b) => a.from - b.from));
  const people = [...new Set([...before, ...after].map(({ person }) => person))].sort();
  return people.filter((person) => of(before, person) !== of(after, person));
}

/** Working days of shifts, rounded to halves so that they still add up to the rounded whole (largest remainders). */
export function inHalfDays(
  shifts: readonly Shift[],
  workday: number,
): { readonly cause: Cause; readonly days: number }[] {
  const half = workday / 2;
  const exact = shifts.map(({ work }) => work / half);
  const floors = exact.map(Math.floor);
  let left = Math.round(exact.reduce((sum, value) => sum + value, 0)) - floors.reduce((sum, value) => sum + value, 0);
  const byRemainder = exact
    .map((value, i) => ({ i, rest: value - Math.floor(value) }))
    .sort((a, b) => b.rest - a.rest || a.i - b.i);
  for (const { i } of byRemainder) {
    if (left <= 0) break;
    floors[i] = (floors[i] as number) + 1;
    left -= 1;
  }
  return shifts.flatMap(({ cause }, i) => (floors[i] === 0 ? [] : [{ cause, days: (floors[i] as number) / 2 }]));
}
