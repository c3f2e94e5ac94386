import { type Calendar, calendarFault } from '@/core/time/calendar';
import { notify, sendWrite, type Tx } from '../db/connect';
import { refuse } from '../refused';
import { reckonAnew } from '../reminders/reckon';
import { recordChange } from './changes';

export interface OrganizationCalendar extends Calendar {
  /** By whose dates times count, and whose hours everybody keeps who has no calendar of their own. */
  readonly usual: boolean;
}

const known = new WeakMap<Tx, Promise<readonly OrganizationCalendar[]>>();
/** Calendars as values that stay the same object while they say the same: their working time is laid out once. */
const values = new Map<string, OrganizationCalendar>();
const most = 200;

/** The working calendars of an organization, the usual one first; asked once in a transaction. */
export function calendarsOf(tx: Tx): Promise<readonly OrganizationCalendar[]> {
  const found = known.get(tx);
  if (found) return found;
  const asked = tx.sql<OrganizationCalendar[]>`
    select id, name, week, holidays, usual from calendar
    where organization = ${tx.organization} order by usual desc, lower(name), id`.then((rows) => rows.map(sameValue));
  known.set(tx, asked);
  return asked;
}

function sameValue(calendar: OrganizationCalendar): OrganizationCalendar {
  const key = JSON.stringify(calendar);
  const found = values.get(key);
  if (found) return found;
  if (values.size >= most) values.clear();
  values.set(key, calendar);
  return calendar;
}

/** Adds a calendar or changes one. The usual one stays until another becomes it. */
export async function saveCalendar(tx: Tx, calendar: OrganizationCalendar, actor: string): Promise<void> {
  const { sql, organization } = tx;
  const fault = calendarFault(calendar);
  if (fault) refuse(fault);
  const all = await calendarsOf(tx);
  const before = all.find((one) => one.id === calendar.id) ?? null;
  if (all.some((one) => one.id !== calendar.id && one.name.toLowerCase() === calendar.name.toLowerCase()))
    refuse('name-taken');
  if (before?.usual && !calendar.usual) refuse('calendar-usual');
  const usual = calendar.usual || all.length === 0;
  const holidays = [...new Map(calendar.holidays.map((one) => [one.day, one])).values()].sort((a, b) =>
    a.day < b.day ? -1 : 1,
  );
  if (usual)
    sendWrite(sql`update calendar set usual = false where organization = ${organization} and id <> ${calendar.id}`);
  const row = {
    name: calendar.name,
    week: sql.json(calendar.week as never),
    holidays: sql.json(holidays as never),
    usual,
  };
  sendWrite(sql`
    insert into calendar ${sql({ organization, id: calendar.id, ...row } as never)}
    on conflict (organization, id) do update set ${sql(row as never)}`);
  await recordChange(tx, 'calendar', calendar.id, before, { ...calendar, holidays, usual }, actor);
  known.delete(tx);
  reckonAnew(tx, null);
  notify(tx, 'settings');
}

export async function removeCalendar(tx: Tx, id: string, actor: string): Promise<void> {
  const before = (await calendarsOf(tx)).find((one) => one.id === id) ?? refuse('unknown-calendar');
  if (before.usual) refuse('calendar-usual');
  sendWrite(tx.sql`delete from calendar where organization = ${tx.organization} and id = ${id}`);
  sendWrite(tx.sql`update person set calendar = null where organization = ${tx.organization} and calendar = ${id}`);
  await recordChange(tx, 'calendar', id, before, null, actor);
  known.delete(tx);
  reckonAnew(tx, null);
  notify(tx, 'settings');
}
