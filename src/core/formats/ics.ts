import ICAL from 'ical.js';
import { RRuleTemporal } from 'rrule-temporal';
import { day, dayNumber, dayOfNumber, type Holiday } from '../time/calendar';
import type { Instant } from '../time/instant';

/** All-day holidays in and out as iCalendar (RFC 5545). Read with bounds; whatever is no all-day date is named, never guessed. */

export type IcsFault =
  | 'not-icalendar'
  | 'too-many'
  | 'no-date'
  | 'timed'
  | 'rule-too-fine'
  | 'rule-unread'
  | 'too-long';

export interface HolidaysRead {
  /** By date, each once; of two on one date the first. */
  readonly holidays: readonly Holiday[];
  /** Entries that were left out, by what they are called, and why. */
  readonly leftOut: readonly { readonly name: string; readonly why: IcsFault }[];
}

const limits = {
  events: 2000,
  dates: 2000,
  span: 60,
  yearsBack: 1,
  yearsAhead: 6,
  /** Of one file: rules, of them those that recur within a year's month, and the dates that rules may come to together. */
  rules: 500,
  dense: 12,
  recurring: 6000,
  /** How often one rule is counted on at most. */
  steps: 4000,
} as const;

/** What may still be spent on the rules of one file: whoever sends it shall not keep everybody waiting. */
interface Budget {
  rules: number;
  dense: number;
  dates: number;
}

/** The all-day dates in an iCalendar text, recurring ones over the years around `now`. Null when it is no iCalendar. */
export function holidaysIn(text: string, now: Instant): HolidaysRead | null {
  let root: ICAL.Component;
  try {
    root = new ICAL.Component(ICAL.parse(text.replace(/^\uFEFF/, '')) as never);
  } catch {
    return null;
  }
  if (root.name !== 'vcalendar') return null;
  const year = new Date(now).getUTCFullYear();
  const window = {
    from: dayNumber(`${year - limits.yearsBack}-01-01`),
    to: dayNumber(`${year + limits.yearsAhead}-12-31`),
  };
  const found = new Map<string, string>();
  const leftOut: { name: string; why: IcsFault }[] = [];
  const events = root.getAllSubcomponents('vevent');
  const moved = overrides(events);
  const budget: Budget = { rules: limits.rules, dense: limits.dense, dates: limits.recurring };
  for (const event of events.slice(0, limits.events)) {
    const name = textOf(event, 'summary');
    const days = daysOf(event, window, moved, budget);
    if (typeof days === 'string') leftOut.push({ name, why: days });
    else for (const number of days) if (!found.has(dayOfNumber(number))) found.set(dayOfNumber(number), name);
  }
  if (events.length > limits.events || found.size > limits.dates) leftOut.push({ name: '', why: 'too-many' });
  const holidays = [...found]
    .slice(0, limits.dates)
    .map(([date, name]) => ({ day: date, name }))
    .sort((a, b) => (a.day < b.day ? -1 : 1));
  return { holidays, leftOut };
}

/** Dates of a recurring event that stand elsewhere, by its UID: they are their own events. */
function overrides(events: readonly ICAL.Component[]): ReadonlyMap<string, ReadonlySet<number>> {
  const found = new Map<string, Set<number>>();
  for (const event of events) {
    const of = dateOf(event, 'recurrence-id');
    if (of === null) continue;
    const uid = textOf(event, 'uid');
    found.set(uid, (found.get(uid) ?? new Set()).add(of));
  }
  return found;
}

interface Window {
  readonly from: number;
  readonly to: number;
}

/** The dates of an event within the window, as days since 1970, or why it has none. */
function daysOf(
  event: ICAL.Component,
  window: Window,
  moved: ReadonlyMap<string, ReadonlySet<number>>,
  budget: Budget,
): number[] | IcsFault {
  const start = event.getFirstProperty('dtstart');
  if (!start) return 'no-date';
  if (start.type !== 'date') return 'timed';
  const first = dateOf(event, 'dtstart');
  if (first === null) return 'no-date';
  const end = event.getFirstProperty('dtend') ? dateOf(event, 'dtend') : first + 1;
  if (end === null) return 'no-date';
  // The end is the first day that is free no more; one that is not later means the day alone.
  const length = Math.max(1, end - first);
  if (length > limits.span) return 'too-long';
  const begins = beginsOf(event, first, window, moved.get(textOf(event, 'uid')) ?? new Set(), budget);
  if (typeof begins === 'string') return begins;
  const days = begins.flatMap((begin) => Array.from({ length }, (_, i) => begin + i));
  return days.filter((number) => number >= window.from && number <= window.to);
}

function beginsOf(
  event: ICAL.Component,
  first: number,
  window: Window,
  moved: ReadonlySet<number>,
  budget: Budget,
): number[] | IcsFault {
  const rules = event.getAllProperties('rrule');
  const isOverride = event.getFirstProperty('recurrence-id') !== null;
  const extra = datesOf(event, 'rdate');
  const gone = new Set([...datesOf(event, 'exdate'), ...(isOverride ? [] : moved)]);
  const begins = new Set([first, ...extra]);
  for (const rule of rules) {
    const text = rule.toICALString().replace(/^RRULE[^:]*:/i, '');
    if (!/FREQ=(DAILY|WEEKLY|MONTHLY|YEARLY)/i.test(text) || /BY(HOUR|MINUTE|SECOND)=/i.test(text))
      return 'rule-too-fine';
    if (!affords(budget, text)) return 'too-many';
    const dates = expanded(text, first, window);
    if (dates === null) return 'rule-unread';
    budget.dates -= dates.length;
    if (budget.dates < 0) return 'too-many';
    for (const number of dates) begins.add(number);
  }
  return [...begins].filter((number) => !gone.has(number));
}

/** Whether a rule is still within what its file may cost; what it costs is taken off. */
function affords(budget: Budget, rule: string): boolean {
  if (Number(/COUNT=(\d+)/i.exec(rule)?.[1] ?? 0) > limits.steps || budget.dates <= 0) return false;
  budget.rules -= 1;
  if (/FREQ=(DAILY|WEEKLY)/i.test(rule)) budget.dense -= 1;
  return budget.rules >= 0 && budget.dense >= 0;
}

/** The dates of a recurrence rule within the window; null when it cannot be read. */
function expanded(rule: string, first: number, window: Window): number[] | null {
  const stamp = (number: number) => `${dayOfNumber(number).replace(/-/g, '')}T000000Z`;
  const bounded = rule.replace(/UNTIL=(\d{8})(?!T)/i, 'UNTIL=$1T000000Z');
  try {
    const found = new RRuleTemporal({
      rruleString: `DTSTART:${stamp(first)}\nRRULE:${bounded}`,
      maxIterations: limits.steps,
    });
    return found
      .between(new Date(window.from * day), new Date(window.to * day), true)
      .slice(0, limits.dates + 1)
      .map((at) => Math.floor(at.epochMilliseconds / day));
  } catch {
    return null;
  }
}

/** The date of a property as days since 1970; null when it is none: 30 February does not become March. */
function dateOf(event: ICAL.Component, name: string): number | null {
  const [, , , value] = (event.getFirstProperty(name)?.toJSON() ?? []) as unknown[];
  return typeof value === 'string' ? dayOf(value) : null;
}

function datesOf(event: ICAL.Component, name: string): number[] {
  return event
    .getAllProperties(name)
    .flatMap((property) => (property.toJSON() as unknown[]).slice(3))
    .flatMap((value) => (typeof value === 'string' ? (dayOf(value) ?? []) : []));
}

function dayOf(text: string): number | null {
  const number = dayNumber(text.slice(0, 10));
  return Number.isNaN(number) ? null : number;
}

function textOf(event: ICAL.Component, name: string): string {
  const value = event.getFirstPropertyValue(name);
  const oneLine = (typeof value === 'string' ? value : '').replace(/[\p{Cc}\p{Zl}\p{Zp}]+/gu, ' ');
  return oneLine.trim().slice(0, 120);
}

/** Holidays as an iCalendar text of all-day events. The same holidays give the same text, whenever it is written. */
export function holidaysOut(name: string, id: string, holidays: readonly Holiday[]): string {
  const lines = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Avenda//Calendar//EN',
    `X-WR-CALNAME:${escaped(name)}`,
    ...holidays.flatMap((holiday) => {
      const compact = (number: number) => dayOfNumber(number).replace(/-/g, '');
      const number = dayNumber(holiday.day);
      return [
        'BEGIN:VEVENT',
        `UID:${compact(number)}-${id}@avenda.example`,
        `DTSTAMP:${compact(number)}T000000Z`,
        'SEQUENCE:0',
        `DTSTART;VALUE=DATE:${compact(number)}`,
        `DTEND;VALUE=DATE:${compact(number + 1)}`,
        `SUMMARY:${escaped(holiday.name)}`,
        'TRANSP:TRANSPARENT',
        'END:VEVENT',
      ];
    }),
    'END:VCALENDAR',
  ];
  return `${lines.map(folded).join('\r\n')}\r\n`;
}

/** One due of a calendar: until when somebody is asked to do what. */
export interface DueEntry {
  readonly uid: string;
  readonly stamp: Instant;
  readonly sequence: number;
  readonly due: Instant;
  readonly summary: string;
  readonly url: string;
}

const quarter = 900_000;

/** Dues as an iCalendar text of events that end when something is due, in UTC. */
export function duesOut(name: string, entries: readonly DueEntry[]): string {
  const utc = (at: Instant) => new Date(at).toISOString().replace(/[-:]|\.\d{3}/g, '');
  const lines = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Avenda//Dues//EN',
    `X-WR-CALNAME:${escaped(name)}`,
    'REFRESH-INTERVAL;VALUE=DURATION:PT1H',
    ...entries.flatMap(({ uid, stamp, sequence, due, summary, url }) => [
      'BEGIN:VEVENT',
      `UID:${uid}@avenda.example`,
      `DTSTAMP:${utc(stamp)}`,
      `SEQUENCE:${sequence}`,
      `DTSTART:${utc(due - quarter)}`,
      `DTEND:${utc(due)}`,
      `SUMMARY:${escaped(summary)}`,
      `URL:${url}`,
      'TRANSP:TRANSPARENT',
      'END:VEVENT',
    ]),
    'END:VCALENDAR',
  ];
  return `${lines.map(folded).join('\r\n')}\r\n`;
}

function escaped(text: string): string {
  return text.replace(/[\\;,]/g, (sign) => `\\${sign}`).replace(/\r?\n/g, '\\n');
}

/** A content line of no more than 75 octets, going on in lines that begin with a space; no character is cut in two. */
function folded(line: string): string {
  const encoder = new TextEncoder();
  let out = '';
  let octets = 0;
  for (const sign of line) {
    const size = encoder.encode(sign).length;
    if (octets + size > 75) {
      out += '\r\n ';
      octets = 1;
    }
    out += sign;
    octets += size;
  }
  return out;
}
