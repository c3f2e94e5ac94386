import { isCovered, type Work } from '@/core/people/cover';
import { axisOf, usualCalendar } from '@/core/time/calendar';
import { type Presence, presenceOf } from '@/core/time/presence';
import type { Tx } from '../db/connect';
import { absencesOf } from './absences';
import { calendarsOf } from './calendars';

export type PresenceOf = (person: string, work?: Work) => Presence;

/** When people work: by their calendars, on their clocks, without their absences; for a kind of work, without those that nobody covers. */
export async function presencesOf(tx: Tx, people: readonly string[]): Promise<PresenceOf> {
  const { sql, organization } = tx;
  const rows = await sql<{ id: string; zone: string; calendar: string | null }[]>`
    select id, zone, calendar from person where organization = ${organization} and id = any(${people as string[]})`;
  const [home] = await sql<{ zone: string }[]>`select zone from profile where organization = ${organization}`;
  const calendars = await calendarsOf(tx);
  const common = calendars.find(({ usual }) => usual) ?? usualCalendar;
  const absences = await absencesOf(tx, people);
  const known = new Map(rows.map((row) => [row.id, row]));
  return (person, work) => {
    const found = known.get(person);
    const calendar = calendars.find(({ id }) => id === found?.calendar) ?? common;
    const axis = axisOf(calendar, found?.zone ?? home?.zone ?? 'UTC');
    // Whoever covers is reminded, too, so that an absence is silent only for what nobody covers.
    const silent = absences.filter((one) => one.person === person && !(work && isCovered(one, work)));
    return presenceOf(axis, silent);
  };
}
