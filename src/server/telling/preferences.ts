import type { Level, Preferences } from '@/core/circulation/telling/preferences';
import { usualPreferences } from '@/core/circulation/telling/preferences';
import { notify, sendWrite, type Tx } from '../db/connect';

/** What somebody chose to be told of, and how; the usual where they chose nothing. */
export async function preferencesOf({ sql, organization }: Tx, person: string): Promise<Preferences> {
  const [row] = await sql<{ tells: Partial<Preferences> }[]>`
    select tells from person where organization = ${organization} and id = ${person}`;
  return { ...usualPreferences, ...row?.tells };
}

/** Keeps what somebody wants to be told of from now on. */
export function keepPreferences(tx: Tx, person: string, tells: Preferences): void {
  const { sql, organization } = tx;
  sendWrite(
    sql`update person set tells = ${sql.json(tells as never)} where organization = ${organization} and id = ${person}`,
  );
}

/** How much of a circulation somebody wants to be told. */
export async function levelOf({ sql, organization }: Tx, circulation: string, person: string): Promise<Level> {
  const [row] = await sql<{ level: Level }[]>`
    select level from following
    where organization = ${organization} and circulation = ${circulation} and person = ${person}`;
  return row?.level ?? 'usual';
}

/** Keeps how much of a circulation somebody wants to be told. */
export function keepLevel(tx: Tx, circulation: string, person: string, level: Level): void {
  const { sql, organization } = tx;
  sendWrite(
    level === 'usual'
      ? sql`delete from following
          where organization = ${organization} and circulation = ${circulation} and person = ${person}`
      : sql`insert into following (organization, circulation, person, level)
          values (${organization}, ${circulation}, ${person}, ${level})
          on conflict (organization, circulation, person) do update set level = excluded.level`,
  );
  notify(tx, 'told', person, [person]);
}
