import type { Duration, Time, Unit } from '../route/route';
import type { Instant } from './instant';
import { typedDay, typedTime } from './typed';
import { instantAtWall, wallClock } from './zone';

/** Times as one says them: "Fri 16:00", "5 working days", "3 Dec", "tomorrow noon", "in 2 weeks". */
type Said =
  /** Understood in one way. */
  | { readonly kind: 'time'; readonly time: Time }
  /** It could be any of these: asked back. */
  | { readonly kind: 'unclear'; readonly options: readonly Time[] }
  | { readonly kind: 'none' };

export interface Now {
  readonly now: Instant;
  readonly zone: string;
  /** The time of day that is meant where only a day is said, as "16:00". */
  readonly usual: string;
}

const weekdays = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'];
const numbers: Readonly<Record<string, number>> = {
  a: 1,
  an: 1,
  one: 1,
  two: 2,
  three: 3,
  four: 4,
  five: 5,
  six: 6,
  seven: 7,
  eight: 8,
  nine: 9,
  ten: 10,
  fourteen: 14,
};

const none: Said = { kind: 'none' };
const after = (amount: number, unit: Unit): Said =>
  amount >= 0 && amount <= 1000 ? { kind: 'time', time: { kind: 'after', amount, unit } } : none;

/** What a text means as a time of a plan, on somebody's clock. */
export function saidTime(text: string, at: Now): Said {
  const said = text
    .trim()
    .toLowerCase()
    .replace(/[,\u00a0]/g, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^(on|by|until|at|due) /, '');
  if (said === '') return none;
  return duration(said.replace(/^(in|within|after) /, '')) ?? moment(said, at) ?? none;
}

/** A stretch of time after being asked: working days and hours, days, weeks. */
function duration(said: string): Said | null {
  const parts =
    /^(\d{1,4}|[a-z]+) ?(working days?|work days?|workdays?|business days?|wd|working hours?|hours?|hrs?|h|calendar days?|days?|d|weeks?|w)( from asking| after asking)?$/.exec(
      said,
    );
  if (!parts) return null;
  const [, many = '', unit = ''] = parts;
  const amount = /^\d/.test(many) ? Number(many) : numbers[many];
  if (amount === undefined) return null;
  if (/^(working|work|business) ?d|^workday|^wd/.test(unit)) return after(amount, 'workingDays');
  if (/^working h|^h/.test(unit)) return amount === 0 ? none : after(amount, 'workingHours');
  if (amount === 0) return none;
  return after(/^w/.test(unit) ? amount * 7 : amount, 'days');
}

/** A day and a time of day, in either order; the time of day may be left out. */
function moment(said: string, at: Now): Said | null {
  const named = said.replace(/\bnoon\b/, '12:00').replace(/\bmidday\b/, '12:00');
  // A day with its year is no time of day: "3 December 2026".
  const whole = dayIn(named, null, at);
  if (whole?.kind === 'time' && whole.time.kind === 'instant' && whole.time.at > at.now) return whole;
  const words = named.split(' ');
  // The longest end, or beginning, that is a time of day.
  for (const cut of [2, 1]) {
    if (words.length <= cut) continue;
    const [tail, head] = [words.slice(-cut).join(' '), words.slice(0, cut).join(' ')];
    const late = clockTime(tail);
    const days = words.slice(0, -cut).join(' ');
    // A number alone is a time of day only behind a word.
    if (late && (/[a-z]/.test(days) || /[:h]|am|pm|\.\d\d/.test(tail))) {
      const found = dayIn(days.replace(/ at$/, ''), late, at);
      if (found) return found;
    }
    const early = clockTime(head);
    if (early && /[:h]|am|pm/.test(head)) {
      const found = dayIn(words.slice(cut).join(' '), early, at);
      if (found) return found;
    }
  }
  const alone = clockTime(named);
  if (alone && /[:.h]|am|pm|12:00/.test(named)) return dayIn('today', alone, at);
  return whole;
}

function clockTime(text: string): string | null {
  // "3.12" is a day, "16.30" a time of day; a number alone is no time where a day may be meant.
  if (/^\d{1,2}\.\d{1,2}\.?$/.test(text) && !/^\d{1,2}\.(00|15|30|45)$/.test(text)) return null;
  return typedTime(text.replace(/ (o'?clock|h)$/, ''));
}

function dayIn(text: string, clock: string | null, at: Now): Said | null {
  const today = wallClock(at.zone, at.now).slice(0, 10);
  const on = (day: string, time = clock ?? at.usual): Time | null => {
    const instant = instantAtWall(at.zone, `${day}T${time}`);
    return instant === null ? null : { kind: 'instant', at: instant };
  };
  const one = (day: string): Said | null => {
    const time = on(day);
    return time && { kind: 'time', time };
  };
  const shift = (days: number) =>
    new Date(Date.parse(`${today}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);
  const weekday = (new Date(`${today}T00:00:00Z`).getUTCDay() + 6) % 7;
  if (text === 'today' || text === 'tonight') return one(today);
  if (text === 'tomorrow') return one(shift(1));
  if (text === 'the day after tomorrow' || text === 'day after tomorrow') return one(shift(2));
  if (/^(the )?end of (the |this )?week$/.test(text)) return one(shift(weekday <= 4 ? 4 - weekday : 11 - weekday));
  if (/^(the )?end of next week$/.test(text)) return one(shift(11 - weekday));
  if (/^(the )?end of (the |this )?month$/.test(text)) return one(monthEnd(today));
  const parts = /^(this |next |coming )?([a-z]+)( week| in a week)?$/.exec(text);
  const index = parts
    ? weekdays.findIndex((name) => name.startsWith(parts[2] ?? '') && (parts[2] ?? '').length >= 2)
    : -1;
  if (parts && index >= 0) {
    const [, which = '', , week = ''] = parts;
    // The coming one: today's weekday is a week away, unless it is still to come today.
    const ahead = (index - weekday + 7) % 7;
    const coming = on(shift(ahead));
    const days = ahead === 0 && (coming?.kind !== 'instant' || coming.at <= at.now) ? 7 : ahead;
    if (week) return one(shift(days + 7));
    if (which.trim() !== 'next') return one(shift(days));
    // "Next Friday": this coming one to some, the one in next week to others.
    const nextWeek = 7 - weekday + index;
    const [first, second] = [on(shift(days)), on(shift(nextWeek))];
    if (!first || !second) return null;
    return days === nextWeek ? { kind: 'time', time: first } : { kind: 'unclear', options: [first, second] };
  }
  const day = typedDay(text, today);
  return day === null ? null : one(day);
}

function monthEnd(today: string): string {
  const [year = 0, month = 1] = today.split('-').map(Number);
  return new Date(Date.UTC(year, month, 0)).toISOString().slice(0, 10);
}

const unitWords: { readonly [U in Unit]: readonly [string, string] } = {
  workingDays: ['working day', 'working days'],
  workingHours: ['working hour', 'working hours'],
  days: ['day', 'days'],
};

/** "5 working days", "one working hour". */
export function durationText({ amount, unit }: Duration): string {
  const [one, many] = unitWords[unit];
  return amount === 1 ? `one ${one}` : `${amount} ${many}`;
}
