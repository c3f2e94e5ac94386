import { timingSafeEqual } from 'node:crypto';
import { inOrganization, type Tx } from '../db/connect';
import { invitationCode } from '../mail/send';
import type { Caller } from '../operations/operation';
import { refuse } from '../refused';
import { hashPassword } from './password';
import { organizationIn } from './sessions';
import { counted, letIn } from './signIn';

/** Whom an invitation is for, and by which organization. */
export async function lookAtInvitation(text: string): Promise<{ name: string; organization: string }> {
  const { organization, nonce, code } = invitationIn(text);
  return inOrganization(organization, async (tx) => {
    const person = await invited(tx, nonce, code);
    const [row] = await tx.sql<{ name: string; organization: string }[]>`
      select p.name, f.name as organization from person p join profile f on f.organization = p.organization
      where p.organization = ${organization} and p.id = ${person}`;
    return row ?? refuse('invitation-over');
  });
}

/** Takes an invitation up: its holder chooses a password, once, and is in. */
export async function acceptInvitation(input: { invitation: string; password: string }, caller: Caller): Promise<null> {
  needStrength(input.password);
  await counted(`address ${caller.address}`, 60);
  const { organization, nonce, code } = invitationIn(input.invitation);
  await inOrganization(organization, (tx) => invited(tx, nonce, code));
  const hashed = await hashPassword(input.password);
  await inOrganization(organization, async (tx) => {
    const person = await invited(tx, nonce, code);
    await tx.sql`delete from invitation where organization = ${organization} and token = ${nonce}`;
    await tx.sql`update person set password = ${hashed}, state = 'active' where organization = ${organization} and id = ${person}`;
    await letIn(tx, person, caller);
  });
  return null;
}

export function needStrength(password: string): void {
  if (password.length < 12) refuse('weak-password');
}

function invitationIn(text: string): { organization: string; nonce: string; code: string } {
  const organization = organizationIn(text);
  const [, nonce, code] = text.split('.');
  if (!organization || !nonce || !code) refuse('invitation-over');
  return { organization, nonce, code };
}

/** The person of an invitation, when its code is right and it has not been used. */
async function invited(tx: Tx, nonce: string, code: string): Promise<string> {
  const [row] = await tx.sql<{ person: string }[]>`
    select i.person from invitation i join person p on p.organization = i.organization and p.id = i.person
    where i.organization = ${tx.organization} and i.token = ${nonce} and i.expires > ${tx.now} and p.state = 'invited' for update of i`;
  if (!row) refuse('invitation-over');
  const right = Buffer.from(invitationCode(tx.organization, row.person, nonce));
  const given = Buffer.from(code);
  if (right.length !== given.length || !timingSafeEqual(right, given)) refuse('invitation-over');
  return row.person;
}
