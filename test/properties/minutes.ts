import fc from 'fast-check';
import { type Calendar, dayNumber, dayOfNumber, type Hours, minute, usualCalendar } from '@/core/time/calendar';

// Referee: the wall clock of every minute as Intl tells it, and every minute of two years counted one by one. No zone here
// changes its clock within a quarter of an hour, so Intl is asked once for each.
export const zones = [
  'Europe/Oslo',
  'America/St_Johns',
  'Australia/Lord_Howe',
  'Asia/Kathmandu',
  'Pacific/Auckland',
  'Africa/Casablanca',
];
export const begin = Date.UTC(2025, 11, 1);
export const count = 2 * 366 * 1440;

const clock = new Map<string, { day: Int32Array; minutes: Int16Array }>();
export function wall(zone: string) {
  const found = clock.get(zone);
  if (found) return found;
  const format = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    hourCycle: 'h23',
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
  });
  const days = new Int32Array(count);
  const minutes = new Int16Array(count);
  for (let i = 0; i < count; i += 15) {
    const text = format.format(begin + i * minute);
    const [, d, m, y, h, min] = /(\d+)\/(\d+)\/(\d+), (\d+):(\d+)/.exec(text) as unknown as string[];
    days.fill(dayNumber(`${y}-${m}-${d}`), i, i + 15);
    for (let k = 0; k < 15; k += 1) minutes[i + k] = Number(h) * 60 + Number(min) + k;
  }
  const made = { day: days, minutes };
  clock.set(zone, made);
  return made;
}
const weekdayOf = (number: number) => (((number + 3) % 7) + 7) % 7;

export function worked(calendar: Calendar, zone: string): Uint8Array {
  const { day, minutes } = wall(zone);
  const free = new Set(calendar.holidays.map((holiday) => dayNumber(holiday.day)));
  const counted = new Uint8Array(count);
  for (let i = 0; i < count; i += 1) {
    const number = day[i] as number;
    const at = minutes[i] as number;
    if (!free.has(number))
      for (const { from, to } of calendar.week[weekdayOf(number)] ?? []) if (at >= from && at < to) counted[i] = 1;
  }
  return counted;
}

const hours: fc.Arbitrary<readonly Hours[]> = fc
  .uniqueArray(fc.integer({ min: 0, max: 1440 }), { minLength: 0, maxLength: 4 })
  .map((cuts) => {
    const sorted = [...cuts].sort((a, b) => a - b);
    const spans: Hours[] = [];
    for (let i = 0; i + 1 < sorted.length; i += 2)
      spans.push({ from: sorted[i] as number, to: sorted[i + 1] as number });
    return spans;
  });
export const calendarDrawn: fc.Arbitrary<Calendar> = fc
  .record({
    week: fc.array(hours, { minLength: 7, maxLength: 7 }),
    holidays: fc.uniqueArray(fc.integer({ min: 0, max: 700 }), { maxLength: 30 }),
  })
  .map(({ week, holidays }) => ({
    id: 'c',
    name: '',
    week: week.some((day) => day.length > 0) ? week : usualCalendar.week,
    holidays: holidays.map((n) => ({ day: dayOfNumber(20_440 + n), name: '' })),
  }));
