import type { Tx } from '../db/connect';
import { settings } from '../settings';

/** What an administrator of a new installation has still to do; null once it is done or they want to see it no more. */
export interface FirstSteps {
  readonly people: boolean;
  readonly types: boolean;
  readonly mail: boolean;
  readonly document: boolean;
}

export async function firstSteps(tx: Tx, administers: boolean): Promise<FirstSteps | null> {
  if (!administers) return null;
  const [row] = await tx.sql<(Omit<FirstSteps, 'mail'> & { hidden: boolean })[]>`
    select f.types_confirmed as types, f.steps_hidden as hidden,
      (select count(*) from (
        select 1 from person p where p.organization = f.organization and p.kind = 'member' limit 2) two) = 2 as people,
      exists (select 1 from register r where r.organization = f.organization) as document
    from profile f where f.organization = ${tx.organization}`;
  if (!row || row.hidden) return null;
  const { hidden: _, ...done } = row;
  const steps = { ...done, mail: settings().smtpUrl !== null };
  return Object.values(steps).every(Boolean) ? null : steps;
}
