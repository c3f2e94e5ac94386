import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import type { Actor } from '@/core/access/may';
import { type Entering, inOrganization, notify, outsideOrganizations, type Sql, type Tx } from '../db/connect';
import { settings } from '../settings';

export const sessionCookie = 'avenda_session';
const day = 86_400_000;
const lifetime = 14 * day;

function tokenHash(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}

/** Opens a session and gives the cookie's value: the organization and a secret of which only the hash is kept. */
export async function openSession(tx: Tx, person: string, address: string): Promise<string> {
  const token = randomBytes(24).toString('base64url');
  await tx.sql`
    insert into session (organization, token, person, created, expires, address)
    values (${tx.organization}, ${tokenHash(token)}, ${person}, ${tx.now}, ${tx.now + lifetime}, ${address})`;
  return `${tx.organization}.${token}`;
}

/** The organization a session cookie names, or null when it is none. Says nothing about whether it still holds. */
export function organizationIn(cookie: string | undefined): string | null {
  const organization = cookie?.split('.')[0] ?? '';
  return /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(organization) ? organization : null;
}

/** The name under which others know a session: the hash of its secret. */
export function sessionName(cookie: string | undefined): string | null {
  const token = cookie?.split('.')[1];
  return token ? tokenHash(token) : null;
}

export type Member = Extract<Actor, { kind: 'member' }>;

/**
 * Runs `work` as the member a session cookie stands for, in a transaction of their organization; gives null when it
 * stands for nobody. A command id, where there is one, is asked about on entering (`tx.answered`).
 */
export async function asMember<T>(
  cookie: string | undefined,
  work: (tx: Tx, member: Member) => Promise<T>,
  entering: Entering = {},
): Promise<T | null> {
  const organization = organizationIn(cookie);
  const session = sessionName(cookie);
  if (!organization || !session) return null;
  return inOrganization(organization, async (tx) => (tx.member ? work(tx, { kind: 'member', ...tx.member }) : null), {
    ...entering,
    session,
  });
}

/** Ends a session, and with it whatever streams it has open. */
export async function closeSession(tx: Tx, cookie: string | undefined): Promise<void> {
  const session = sessionName(cookie);
  if (!session) return;
  await tx.sql`delete from session where organization = ${tx.organization} and token = ${session}`;
  notify(tx, 'session', session);
}

/** Ends all sessions of a person, but the one of `spared` where such a cookie is given. */
export async function closeSessionsOf(tx: Tx, person: string, spared?: string): Promise<void> {
  const ended = await tx.sql<{ token: string }[]>`
    delete from session
    where organization = ${tx.organization} and person = ${person} and token <> ${sessionName(spared) ?? ''} returning token`;
  for (const { token } of ended) notify(tx, 'session', token);
}

/** A session as its owner sees it. */
export interface SessionRow {
  readonly created: number;
  readonly address: string;
  /** The one that asks. */
  readonly current: boolean;
}

/** The sessions of a person that are open, this one first. */
export async function sessionsOf(tx: Tx, person: string, cookie: string | undefined): Promise<SessionRow[]> {
  return tx.sql<SessionRow[]>`
    select created, address, token = ${sessionName(cookie) ?? ''} as current from session
    where organization = ${tx.organization} and person = ${person} and expires > ${tx.now}
    order by current desc, created desc limit 50`;
}

/** The key under which an address's organizations are found before anybody is signed in. */
export function emailKey(email: string): string {
  return createHmac('sha256', settings().secret).update(`address ${email.trim().toLowerCase()}`).digest('hex');
}

/** The organizations in which somebody may have an account under an email address. */
export async function organizationsOf(email: string): Promise<string[]> {
  const rows = await outsideOrganizations(
    (sql) => sql<{ organization: string }[]>`
      select organization::text from sign_in_address where address = ${emailKey(email)}`,
  );
  return rows.map(({ organization }) => organization);
}

/** Whether a code is the right one, found out in a time that tells nothing about it. */
export function sameCode(right: string, given: string): boolean {
  const [a, b] = [Buffer.from(right), Buffer.from(given)];
  return a.length === b.length && timingSafeEqual(a, b);
}

const quarter = 900_000;

/** Counts a try under a key; false when there were more than `limit` in this quarter of an hour. */
export async function countTry(sql: Sql, now: number, key: string, limit: number): Promise<boolean> {
  const hashed = createHmac('sha256', settings().secret).update(`try ${key}`).digest('hex');
  const since = now - (now % quarter);
  const [row] = await sql<{ count: number }[]>`
    insert into attempt (key, since, count) values (${hashed}, ${since}, 1)
    on conflict (key, since) do update set count = attempt.count + 1 returning count`;
  return (row?.count ?? 0) <= limit;
}
