import { type HolidaysRead, holidaysIn } from '@/core/formats/ics';
import { refuse } from '../refused';

/** The all-day holidays in an iCalendar text, with what had to be left out and why. */
export async function readHolidays(content: string, now: number): Promise<HolidaysRead> {
  return holidaysIn(content, now) ?? refuse('not-icalendar');
}
