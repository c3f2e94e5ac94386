import { createHmac } from 'node:crypto';
import { type DueEntry, duesOut } from '@/core/formats/ics';
import { personNamed } from '../admin/people';
import { sameCode } from '../auth/sessions';
import { notify, sendWrite, type Tx } from '../db/connect';
import { randomBytes } from '../random';
import { settings } from '../settings';
import { waitingFor } from './mine';
import { type TaskRow, taskColumns, taskTables } from './view';

/** How many dues a calendar shows. */
const most = 500;

/** What a calendar calls a task. */
const summaries = {
  contribute: 'Contribute',
  review: 'Review',
  approve: 'Approve',
  sign: 'Sign',
  read: 'Confirm read',
} as const;

/**
 * The address at which somebody's dues can be read as iCalendar by whoever knows it; null where there is none. Its code is
 * derived (HMAC, RFC 2104) and stands in no table: a nonce that is renewed makes the old address one of nothing.
 */
export async function feedAddress({ sql, organization }: Tx, person: string): Promise<string | null> {
  const [row] = await sql<{ feed: string | null }[]>`
    select feed from person where organization = ${organization} and id = ${person}`;
  return row?.feed ? addressOf(organization, row.feed) : null;
}

function addressOf(organization: string, nonce: string): string {
  const handle = `${Buffer.from(organization.replaceAll('-', ''), 'hex').toString('base64url')}${nonce}`;
  return `${settings().url}/feed/${handle}.${codeOf(organization, nonce)}.ics`;
}

function codeOf(organization: string, nonce: string): string {
  const hmac = createHmac('sha256', settings().secret).update(['due feed', organization, nonce].join('\n'));
  return hmac.digest('base64url').slice(0, 32);
}

/** Makes the address of somebody's feed, or another one in its place: the former gives nothing from then on. */
export async function renewFeed(tx: Tx, person: string): Promise<{ readonly address: string }> {
  const nonce = randomBytes(12).toString('base64url');
  sendWrite(tx.sql`update person set feed = ${nonce} where organization = ${tx.organization} and id = ${person}`);
  notify(tx, 'session');
  return { address: addressOf(tx.organization, nonce) };
}

/** Ends somebody's feed. */
export function stopFeed(tx: Tx, person: string): void {
  sendWrite(tx.sql`update person set feed = null where organization = ${tx.organization} and id = ${person}`);
  notify(tx, 'session');
}

/** The dues of whom a handle and its code belong to, as iCalendar (RFC 5545); null where they are nobody's. */
export async function feedOf(tx: Tx, handle: string, code: string): Promise<string | null> {
  const nonce = handle.slice(22);
  if (!sameCode(codeOf(tx.organization, nonce), code)) return null;
  const [owner] = await tx.sql<{ id: string }[]>`
    select id from person where organization = ${tx.organization} and feed = ${nonce} and state = 'active'`;
  if (!owner) return null;
  const { where: mine } = await waitingFor(tx, owner.id);
  const rows = await tx.sql<(TaskRow & { last: number; created: number })[]>`
    ${taskColumns(tx)}, c.last, c.created ${taskTables(tx)}
    where t.organization = ${tx.organization} and t.due is not null and t.seat <> ''
    and ${mine}
    order by t.due, t.key limit ${most}`;
  const entries = rows.map(
    (row): DueEntry => ({
      uid: `${row.circulation}-${row.seat}`,
      stamp: row.since,
      // Every change of the circulation raises it, so that a calendar takes over another due time.
      sequence: Math.floor((row.last - row.created) / 1000),
      due: row.due ?? 0,
      summary: `${summaries[row.doing as keyof typeof summaries] ?? 'Respond to'}: ${row.number} ${row.title}`,
      url: `${settings().url}/circulations/${row.circulation}/act/${row.seat}`,
    }),
  );
  const person = await personNamed(tx, owner.id);
  return duesOut(`Avenda: ${person?.name ?? ''}`, entries);
}
