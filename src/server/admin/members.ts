import type { Role } from '@/core/access/may';
import type { Tx } from '../db/connect';
import { recordChange } from '../organization/changes';
import { addPerson } from './people';

/** What makes somebody a member: their rights and their clock. */
interface Membership {
  readonly roles: readonly Role[];
  readonly zone: string;
}

const said = (of: Membership | null) => of && { roles: of.roles, zone: of.zone };

/** Records what somebody was as a member and is now; null for whoever was or is none. Nothing when it stays as it is. */
export function recordMember(
  tx: Tx,
  person: string,
  before: Membership | null,
  after: Membership | null,
  actor: string,
): Promise<void> {
  return recordChange(tx, 'member', person, said(before), said(after), actor);
}

/** Adds a member, on record; by themselves where nobody else is there yet. */
export async function addMember(
  tx: Tx,
  given: Omit<Parameters<typeof addPerson>[1], 'kind' | 'company'>,
  actor: string | null,
): Promise<string> {
  const person = await addPerson(tx, { ...given, kind: 'member', company: '' });
  await recordMember(tx, person, null, given, actor ?? person);
  return person;
}
