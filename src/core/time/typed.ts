/** Dates and times as people type them, in the day-month-year order of the interface. */

const months = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'] as const;

function isoDay(year: number, month: number, day: number): string | null {
  const date = new Date(Date.UTC(year, month - 1, day));
  const fits = date.getUTCFullYear() === year && date.getUTCMonth() === month - 1 && date.getUTCDate() === day;
  return fits && year >= 1000 && year <= 9999 ? date.toISOString().slice(0, 10) : null;
}

/**
 * The day that was typed as an ISO 8601 date ("2030-01-15"), or null: "15 Jan 2030", "15 january", "15.1.2030",
 * "15/01/30", "2030-01-15". Without a year it is the next such day from `today` (an ISO date) on.
 */
export function typedDay(text: string, today: string): string | null {
  const said = text
    .trim()
    .toLowerCase()
    .replace(/^(mon|tue|wed|thu|fri|sat|sun)[a-z]*,?\s+/, '');
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(said);
  if (iso) return isoDay(Number(iso[1]), Number(iso[2]), Number(iso[3]));
  const parts = /^(\d{1,2})(?:st|nd|rd|th)?[\s./-]*([a-z]{3,9}|\d{1,2})\.?(?:[\s,./-]+(\d{4}|\d{2}))?$/.exec(said);
  if (!parts) return null;
  const [, day = '', named = '', given] = parts;
  const month = /^\d/.test(named) ? Number(named) : months.findIndex((name) => named.startsWith(name)) + 1;
  if (given !== undefined) return isoDay(Number(given) + (given.length === 2 ? 2000 : 0), month, Number(day));
  const year = Number(today.slice(0, 4));
  // The 29th of February comes within eight years.
  for (let next = year; next <= year + 8; next += 1) {
    const found = isoDay(next, month, Number(day));
    if (found && found >= today) return found;
  }
  return null;
}

/** The time that was typed as "HH:MM", or null: "16", "16:30", "16.30", "1630", "4 pm". */
export function typedTime(text: string): string | null {
  const parts = /^(\d{1,2})(?:[:.h\s]?(\d{2}))?\s*(am|pm)?$/.exec(text.trim().toLowerCase());
  if (!parts) return null;
  const [, hours = '', minutes = '00', half] = parts;
  const hour = Number(hours);
  if (half && (hour < 1 || hour > 12)) return null;
  const whole = half ? (hour % 12) + (half === 'pm' ? 12 : 0) : hour;
  return whole < 24 && Number(minutes) < 60 ? `${String(whole).padStart(2, '0')}:${minutes}` : null;
}

/** A day as it stands in a field: "Tue 15 Jan 2030". Takes an ISO date; no day is no text. */
export function dayText(iso: string | null): string {
  if (!iso) return '';
  const date = new Date(`${iso}T00:00:00Z`);
  const part = (options: Intl.DateTimeFormatOptions) =>
    new Intl.DateTimeFormat('en-GB', { ...options, timeZone: 'UTC' }).format(date);
  return `${part({ weekday: 'short' })} ${date.getUTCDate()} ${part({ month: 'long' }).slice(0, 3)} ${date.getUTCFullYear()}`;
}
