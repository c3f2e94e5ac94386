import { unitGroup } from '@/core/route/route';
import { giveBackTaken } from '../circulation/giveBackTaken';
import { notify, sendWrite, type Tx } from '../db/connect';
import { refuse } from '../refused';
import { reckonAnew } from '../reminders/reckon';
import { calendarsOf } from './calendars';
import { recordChange } from './changes';
import { tellOfTasks } from './groups';
import { needUnit } from './units';

/** Where somebody belongs: what is not said stays as it is. No calendar is the usual one. */
export interface Place {
  readonly person: string;
  readonly unit?: string | null | undefined;
  readonly calendar?: string | null | undefined;
}

/** Says to which unit somebody belongs and by whose calendar they work. What they took of a unit they leave goes back to it. */
export async function placePerson(tx: Tx, { person, ...given }: Place, actor: string): Promise<void> {
  const { sql, organization } = tx;
  const [found] = await sql<{ unit: string | null; calendar: string | null; kind: string }[]>`
    select unit, calendar, kind from person where organization = ${organization} and id = ${person}`;
  if (found?.kind !== 'member') refuse('unknown-person');
  const { unit = found.unit, calendar = found.calendar } = given;
  if (unit !== null) await needUnit(tx, unit);
  if (calendar !== null && !(await calendarsOf(tx)).some((one) => one.id === calendar)) refuse('unknown-calendar');
  sendWrite(sql`
    update person set unit = ${unit}, calendar = ${calendar} where organization = ${organization} and id = ${person}`);
  const before = { unit: found.unit, calendar: found.calendar };
  await recordChange(tx, 'place', person, before, { unit, calendar }, actor);
  reckonAnew(tx, person);
  notify(tx, 'people');
  notify(tx, 'settings');
  if (unit === found.unit) return;
  for (const one of [unit, found.unit]) if (one !== null) await tellOfTasks(tx, unitGroup(one), [person]);
  if (found.unit !== null) await giveBackTaken(tx, person, unitGroup(found.unit));
}
