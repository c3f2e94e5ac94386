import { createHmac } from 'node:crypto';
import { recordAdministration } from '../admin/administration';
import { personNamed } from '../admin/people';
import { inOrganization, notify, sendWrite, type Tx } from '../db/connect';
import { enqueue } from '../jobs/queue';
import { type Caller, sessionOf } from '../operations/operation';
import { randomBytes } from '../random';
import { refuse } from '../refused';
import { settings } from '../settings';
import { hashPassword, passwordFits } from './password';
import { closeSessionsOf, organizationIn, organizationsOf, sameCode } from './sessions';
import { counted, letIn } from './signIn';

/** Why somebody chooses a password: they were invited, or have forgotten theirs. */
type AccessPurpose = 'invitation' | 'password';

const hour = 3_600_000;
const holdsFor: { readonly [P in AccessPurpose]: number } = { invitation: 7 * 24 * hour, password: hour };
/** In which state a person must be for an address of each purpose to work. */
const stateFor = { invitation: 'invited', password: 'active' } as const;

/** The code of an address by which somebody chooses a password, derived when it leaves; only its nonce is kept. */
function accessCode(organization: string, person: string, purpose: AccessPurpose, nonce: string): string {
  return createHmac('sha256', settings().secret)
    .update([purpose, organization, person, nonce].join('\n'))
    .digest('base64url')
    .slice(0, 32);
}

/** Makes an address by which somebody chooses a password; one made before for the same purpose ends. */
function openAccess(tx: Tx, person: string, purpose: AccessPurpose): string {
  const nonce = randomBytes(12).toString('base64url');
  sendWrite(
    tx.sql`delete from invitation where organization = ${tx.organization} and person = ${person} and purpose = ${purpose}`,
  );
  sendWrite(tx.sql`
    insert into invitation (organization, token, person, purpose, expires)
    values (${tx.organization}, ${nonce}, ${person}, ${purpose}, ${tx.now + holdsFor[purpose]})`);
  return nonce;
}

/** Makes such an address and leaves it to the mail. */
export function sendAccess(tx: Tx, person: string, purpose: AccessPurpose): void {
  openAccess(tx, person, purpose);
  enqueue(tx, 'mail', { template: purpose, person });
}

function addressOf(tx: Tx, person: string, purpose: AccessPurpose, nonce: string): string {
  const code = accessCode(tx.organization, person, purpose, nonce);
  return `${settings().url}/invitation/${tx.organization}.${nonce}.${code}`;
}

/** The address that a message is to carry, or null when it no longer holds. */
export async function accessAddress(tx: Tx, person: string, purpose: AccessPurpose): Promise<string | null> {
  const [row] = await tx.sql<{ token: string }[]>`
    select token from invitation
    where organization = ${tx.organization} and person = ${person} and purpose = ${purpose} and expires > ${tx.now}`;
  return row ? addressOf(tx, person, purpose, row.token) : null;
}

/**
 * The address for an administrator to hand on: an invitation always, one for a forgotten password only where no email can
 * carry it. That they had it is recorded.
 */
export async function copyAccess(tx: Tx, of: string, actor: string): Promise<{ address: string; until: number }> {
  const person = await personNamed(tx, of);
  const purpose = person?.state === 'invited' ? 'invitation' : 'password';
  if (person?.kind !== 'member' || person.state === 'left' || person.id === actor) refuse('unknown-person');
  if (purpose === 'password' && settings().smtpUrl) refuse('email-carries-it');
  const nonce = openAccess(tx, of, purpose);
  await recordAdministration(tx, { type: 'access.copied', data: { person: of, purpose } }, actor);
  return { address: addressOf(tx, of, purpose, nonce), until: tx.now + holdsFor[purpose] };
}

/** When it is answered that an address will be sent, in milliseconds: later than sending one takes. */
const evenly = 250;

interface Access {
  readonly person: string;
  readonly name: string;
  readonly organization: string;
  readonly purpose: AccessPurpose;
}

/** Whom an address lets in, why, and at which organization. */
export async function lookAtAccess(text: string): Promise<Omit<Access, 'person'>> {
  const { organization, nonce, code } = accessIn(text);
  const { person: _, ...found } = await inOrganization(organization, (tx) => access(tx, nonce, code));
  return found;
}

/** Takes such an address up: its holder chooses a password, once, and is in; sessions from before end. */
export async function acceptAccess(input: { invitation: string; password: string }, caller: Caller): Promise<null> {
  needStrength(input.password);
  await counted(`address ${caller.address}`, 60);
  const { organization, nonce, code } = accessIn(input.invitation);
  await inOrganization(organization, (tx) => access(tx, nonce, code));
  const hashed = await hashPassword(input.password);
  await inOrganization(organization, async (tx) => {
    const { person, purpose } = await access(tx, nonce, code);
    await tx.sql`delete from invitation where organization = ${organization} and person = ${person}`;
    await tx.sql`update person set password = ${hashed}, state = 'active' where organization = ${organization} and id = ${person}`;
    await closeSessionsOf(tx, person);
    await recordAdministration(tx, { type: 'password.set', data: { person, how: purpose } }, person);
    await letIn(tx, person, caller);
    notify(tx, 'people');
  });
  return null;
}

/**
 * Sends an address for a new password to whoever has an account under an email address. Says the same whether anybody has,
 * and as late, and no account gets more than three in a quarter of an hour.
 */
export async function forgotPassword(input: { email: string }, caller: Caller): Promise<null> {
  await counted(`forgotten from ${caller.address}`, 10);
  await counted(`forgotten ${input.email}`, 3);
  const answered = new Promise((resolve) => setTimeout(resolve, evenly));
  for (const organization of await organizationsOf(input.email))
    await inOrganization(organization, async (tx) => {
      const [person] = await tx.sql<{ id: string }[]>`
        select id from person
        where organization = ${organization} and email = ${input.email} and kind = 'member' and state = 'active'`;
      if (person) sendAccess(tx, person.id, 'password');
    });
  await answered;
  return null;
}

/** The hash of somebody's new password, once the one of today was given. Holds no transaction while it is made. */
export async function hashChanged(
  organization: string,
  input: { before: string; password: string },
  person: string,
): Promise<string> {
  needStrength(input.password);
  await counted(`change ${organization} ${person}`, 10);
  const [row] = await inOrganization(
    organization,
    (tx) => tx.sql<{ password: string | null }[]>`
      select password from person where organization = ${organization} and id = ${person}`,
  );
  if (!(await passwordFits(row?.password ?? null, input.before))) refuse('wrong-password');
  return hashPassword(input.password);
}

/** Sets one's own new password; other sessions end. */
export async function changePassword(tx: Tx, hashed: string, person: string, caller: Caller): Promise<void> {
  await tx.sql`update person set password = ${hashed} where organization = ${tx.organization} and id = ${person}`;
  await tx.sql`delete from invitation where organization = ${tx.organization} and person = ${person}`;
  await closeSessionsOf(tx, person, sessionOf(caller));
  await recordAdministration(tx, { type: 'password.set', data: { person, how: 'own' } }, person);
}

export function needStrength(password: string): void {
  if (password.length < 12) refuse('weak-password');
}

function accessIn(text: string): { organization: string; nonce: string; code: string } {
  const organization = organizationIn(text);
  const [, nonce, code] = text.split('.');
  if (!organization || !nonce || !code) refuse('invitation-over');
  return { organization, nonce, code };
}

/** Whom an address lets in, when its code is right and it has not been used. */
async function access(tx: Tx, nonce: string, code: string): Promise<Access> {
  const [row] = await tx.sql<(Access & { state: string })[]>`
    select i.person, i.purpose, p.name, p.state, f.name as organization
    from invitation i
    join person p on p.organization = i.organization and p.id = i.person
    join profile f on f.organization = i.organization
    where i.organization = ${tx.organization} and i.token = ${nonce} and i.expires > ${tx.now} for update of i`;
  if (!row || row.state !== stateFor[row.purpose]) refuse('invitation-over');
  if (!sameCode(accessCode(tx.organization, row.person, row.purpose, nonce), code)) refuse('invitation-over');
  const { person, name, organization, purpose } = row;
  return { person, name, organization, purpose };
}
