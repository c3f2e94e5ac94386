import { createHash, createHmac, randomBytes } from 'node:crypto';
import type { Actor } from '@/core/access/may';
import { inOrganization, type Sql, type Tx } from '../db/connect';
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

export type Member = Extract<Actor, { kind: 'member' }>;

/**
 * Runs `work` as the member a session cookie stands for, in a transaction of their organization; gives null when it
 * stands for nobody. A command id, where there is one, is asked about on entering (`tx.answered`).
 */
export async function asMember<T>(
  cookie: string | undefined,
  work: (tx: Tx, member: Member) => Promise<T>,
  command?: string,
): Promise<T | null> {
  const organization = organizationIn(cookie);
  const token = cookie?.split('.')[1];
  if (!organization || !token) return null;
  return inOrganization(organization, async (tx) => (tx.member ? work(tx, { kind: 'member', ...tx.member }) : null), {
    session: tokenHash(token),
    command,
  });
}

export async function closeSession(tx: Tx, cookie: string | undefined): Promise<void> {
  const token = cookie?.split('.')[1];
  if (token) await tx.sql`delete from session where organization = ${tx.organization} and token = ${tokenHash(token)}`;
}

export async function closeSessionsOf(tx: Tx, person: string): Promise<void> {
  await tx.sql`delete from session where organization = ${tx.organization} and person = ${person}`;
}

/** The key under which an address's organizations are found before anybody is signed in. */
export function doorKey(email: string): string {
  return createHmac('sha256', settings().secret).update(`door ${email.trim().toLowerCase()}`).digest('hex');
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
