import { createHmac } from 'node:crypto';
import { baseHolder } from '@/core/circulation/run/state';
import { personNamed } from '../admin/people';
import { circulationState } from '../circulation/load';
import type { Tx } from '../db/connect';
import { table } from '../db/table';
import type { LinkActor } from '../operations/operation';
import { randomBytes } from '../random';
import { refuse } from '../refused';
import { settings } from '../settings';
import { sameCode } from './sessions';

/**
 * Links of outside people. A link is a handle (organization and nonce, no secret) and a code: the HMAC (RFC 2104)
 * of what the link opens under the server's secret. The code is derived when the link is delivered or copied and
 * stands in no table, job, event or log.
 */
interface LinkRow {
  readonly nonce: string;
  readonly circulation: string;
  readonly seat: string;
  readonly epoch: number;
  readonly created: number;
}

const links = table<LinkRow>('link', {
  nonce: 'value',
  circulation: 'value',
  seat: 'value',
  epoch: 'value',
  created: 'value',
});

const linkCookiePrefix = 'avenda_seat_';

/** The cookie that holds the code of a link, for its own path only. */
export function linkCookie(handle: string): string {
  return `${linkCookiePrefix}${handle.slice(-8).replace(/[^A-Za-z0-9]/g, '0')}`;
}

/** The link of a seat at its present epoch, made when it is wanted first. */
export async function linkFor(tx: Tx, circulation: string, seat: string, epoch: number): Promise<LinkRow> {
  const nonce = randomBytes(12).toString('base64url');
  await tx.sql`
    ${links.insert(tx, [{ nonce, circulation, seat, epoch, created: tx.now }])}
    on conflict (organization, circulation, seat, epoch) do nothing`;
  return (await keptLink(tx, circulation, seat, epoch)) as LinkRow;
}

/** The link of a seat's epoch that was made before; null where none was. */
export async function keptLink(tx: Tx, circulation: string, seat: string, epoch: number): Promise<LinkRow | null> {
  const [row] = await tx.sql<LinkRow[]>`
    select ${links.list(tx, 'l')} from link l
    where organization = ${tx.organization} and circulation = ${circulation} and seat = ${seat} and epoch = ${epoch}`;
  return row ?? null;
}

/** The address to open, with its code. */
export function linkAddress(organization: string, link: LinkRow): string {
  return `${settings().url}/s/${handleOf(organization, link.nonce)}.${codeOf(organization, link)}`;
}

function handleOf(organization: string, nonce: string): string {
  return `${Buffer.from(organization.replaceAll('-', ''), 'hex').toString('base64url')}${nonce}`;
}

function codeOf(organization: string, link: LinkRow): string {
  return createHmac('sha256', settings().secret)
    .update(['seat link', organization, link.circulation, link.seat, link.epoch, link.nonce].join('\n'))
    .digest('base64url')
    .slice(0, 32);
}

/** The organization in a handle, or null when it is no handle. */
export function organizationOfHandle(handle: string): string | null {
  if (!/^[A-Za-z0-9_-]{38}$/.test(handle)) return null;
  const hex = Buffer.from(handle.slice(0, 22), 'base64url').toString('hex');
  if (hex.length !== 32) return null;
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-');
}

/** The link of a handle when the code is its own; null otherwise. */
export async function openLink(tx: Tx, handle: string, code: string): Promise<LinkRow | null> {
  const [row] = await tx.sql<LinkRow[]>`
    select ${links.list(tx, 'l')} from link l where organization = ${tx.organization} and nonce = ${handle.slice(22)}`;
  return row && sameCode(codeOf(tx.organization, row), code) ? row : null;
}

/** The actor behind a link, when its code is right. A seat that has moved on since is told apart from a wrong code. */
export async function linkActor(
  tx: Tx,
  { handle, secret }: { readonly handle: string; readonly secret: string | undefined },
): Promise<LinkActor> {
  // The code stays in the cookie of the browser that opened the link: an address that was copied from there has none.
  if (!secret) refuse('link-elsewhere');
  const link = await openLink(tx, handle, secret);
  if (!link) refuse('link-unknown');
  const state = await circulationState(tx, link.circulation);
  const seat = state?.seats.get(link.seat);
  const holder = seat && baseHolder(seat);
  if (!seat) refuse('link-unknown');
  if (seat.epoch !== link.epoch || !holder?.outside) {
    // Whoever passed it on themselves is told to which address, as they gave it, and no name that they did not; where the
    // sender gave it to somebody else, that is not for them.
    if (holder?.via === 'delegated' && seat.epoch === link.epoch + 1)
      refuse('link-delegated', { to: (await personNamed(tx, holder.person))?.email ?? '' });
    refuse('link-moved');
  }
  return { kind: 'link', person: holder.person, circulation: link.circulation, seat: link.seat, epoch: link.epoch };
}
