import { type Calendar, day, dayBegins, localDay } from './calendar';
import type { Instant } from './instant';
import { addPresent, nextPresent, type Presence, presentBetween } from './presence';

/**
 * When people are reminded, as a share of the working time that is left between being asked and the due time; and who is
 * told once that has passed in silence.
 */
export interface ReminderPlan {
  /** Percent of the working time that are left, each 1 to 99, the larger first. */
  readonly left: readonly number[];
  /** Once more on the morning of the day it is due. */
  readonly lastMorning: boolean;
  /** Whether the controller is told when it is late. */
  readonly controller: boolean;
  /** Somebody else who is told when it has been late for so many working days. */
  readonly third: { readonly person: string; readonly days: number } | null;
}

export const usualReminders: ReminderPlan = { left: [50, 20], lastMorning: true, controller: true, third: null };
export const noReminders: ReminderPlan = { left: [], lastMorning: false, controller: false, third: null };
export const reminderLimits = { points: 5, days: 60 } as const;

/** Whether a plan can be kept: shares of 1 to 99 percent, the larger first, and days that can be counted. */
export function isReminderPlan({ left, third }: ReminderPlan): boolean {
  const shares = left.every((one, i) => Number.isInteger(one) && one >= 1 && one <= 99 && one < (left[i - 1] ?? 100));
  const days = third === null || (Number.isInteger(third.days) && third.days >= 0 && third.days <= reminderLimits.days);
  return left.length <= reminderLimits.points && shares && days;
}

/** What is known of somebody who is asked: since when they can respond, until when, and what they were told so far. */
export interface Silence {
  /** Since when they can respond. */
  readonly since: Instant;
  readonly due: Instant;
  /** The points for which reminders went out already, and instants at which somebody reminded by hand. */
  readonly reminded: readonly Instant[];
  readonly controllerTold: boolean;
  readonly thirdTold: boolean;
}

/** The next message: when it goes out, for which point of the plan, and to whom. */
export interface Notice {
  readonly at: Instant;
  readonly point: Instant;
  readonly to: 'holder' | 'controller' | 'third';
}

/** Whose working time counts: the holder's for reminders, theirs who are told for everything else. */
interface Presences {
  readonly holder: Presence;
  readonly controller: Presence;
  readonly third: Presence | null;
}

/** How much a calendar works on an average day on which it works, in milliseconds. */
export function workOfDay({ week }: Calendar): number {
  const days = week.map((hours) => hours.reduce((sum, { from, to }) => sum + to - from, 0)).filter((sum) => sum > 0);
  return days.length === 0 ? day / 3 : Math.round((days.reduce((sum, one) => sum + one, 0) / days.length) * 60_000);
}

/**
 * The points of a plan in order, on the holder's working axis: nights, days off and absences need no rule of their own.
 * Points closer together than half a working day become one, the first of them.
 */
export function pointsOf(plan: ReminderPlan, since: Instant, due: Instant, holder: Presence): Instant[] {
  if (due <= since) return [];
  const all = presentBetween(holder, since, due);
  const shares = plan.left.flatMap((left) => addPresent(holder, since, Math.ceil((all * (100 - left)) / 100)) ?? []);
  const morning = plan.lastMorning ? morningOf(due, holder) : null;
  const points = [...shares, ...(morning === null ? [] : [morning])]
    .filter((at) => at > since && at < due)
    .sort((a, b) => a - b);
  const half = workOfDay(holder.axis.calendar) / 2;
  const kept: Instant[] = [];
  for (const at of points) {
    const last = kept[kept.length - 1];
    if (last === undefined || presentBetween(holder, last, at) >= half) kept.push(at);
  }
  return kept;
}

/** When the holder begins to work on the last day on which they do so before it is due; null where that is long before. */
function morningOf(due: Instant, holder: Presence): Instant | null {
  const { axis } = holder;
  const last = localDay(axis, due);
  for (let number = last; number > last - 40; number -= 1) {
    const begins = dayBegins(axis, number);
    const at = begins === null ? null : nextPresent(holder, begins);
    if (at !== null && at < due && localDay(axis, at) === number) return at;
  }
  return null;
}

/**
 * The next message about a task that is silent, or null when none is to come. At `now` it goes out when its `at` has come;
 * what was missed meanwhile is one message, for the last point that has passed, in working hours.
 */
export function nextNotice(plan: ReminderPlan, silence: Silence, presences: Presences, now: Instant): Notice | null {
  const { since, due, reminded, controllerTold, thirdTold } = silence;
  const { holder } = presences;
  const half = workOfDay(holder.axis.calendar) / 2;
  const last = Math.max(...reminded, Number.NEGATIVE_INFINITY);
  // A reminder by hand shortly before a point has said what the point would say.
  const open = pointsOf(plan, since, due, holder).filter(
    (point) => point > last && (last === Number.NEGATIVE_INFINITY || presentBetween(holder, last, point) >= half),
  );
  const [first] = open;
  if (first !== undefined && now < due) {
    const passed = open.filter((point) => point <= now);
    const point = passed[passed.length - 1] ?? first;
    const at = nextPresent(holder, Math.max(point, now));
    // Put off to a time at which it is late already, it would remind of what has passed.
    if (at !== null && at < due) return { at, point, to: 'holder' };
  }
  if (plan.controller && !controllerTold) {
    const at = nextPresent(presences.controller, Math.max(due, now));
    return at === null ? null : { at, point: due, to: 'controller' };
  }
  if (!plan.third || thirdTold || !presences.third) return null;
  const point = addPresent(holder, due, plan.third.days * workOfDay(holder.axis.calendar));
  const at = point === null ? null : nextPresent(presences.third, Math.max(point, now));
  return point === null || at === null ? null : { at, point, to: 'third' };
}
