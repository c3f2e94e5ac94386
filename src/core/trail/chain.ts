import { canonical, type Json } from './canonical';
import { hashOf } from './sha256';

/** One event as it is kept: its data are the very text that was hashed. */
export interface Link {
  readonly organization: string;
  readonly stream: string;
  readonly sequence: number;
  readonly type: string;
  readonly version: number;
  /** Whole milliseconds since 1970, UTC. */
  readonly at: number;
  readonly actor: string;
  readonly onBehalfOf: string | null;
  /** Canonical JSON (RFC 8785). */
  readonly data: string;
  /** The hash of the event before it in the stream; 64 zeros for the first. */
  readonly previous: string;
  readonly hash: string;
}

export const genesis = '0'.repeat(64);

/** The hash of an event over everything it says, chained to the one before it. */
function linkHash(link: Omit<Link, 'hash'>): string {
  return hashOf(
    canonical([
      'avenda-trail-1',
      link.organization,
      link.stream,
      link.sequence,
      link.type,
      link.version,
      link.at,
      link.actor,
      link.onBehalfOf,
      link.data,
      link.previous,
    ]),
  );
}

/** The event sealed into its chain: `previous` and `hash` filled in. */
export function chained(
  after: { readonly sequence: number; readonly hash: string },
  event: Omit<Link, 'sequence' | 'data' | 'previous' | 'hash'> & { readonly data: Json },
): Link {
  const body = { ...event, data: canonical(event.data), sequence: after.sequence + 1, previous: after.hash };
  return { ...body, hash: linkHash(body) };
}

type ChainCheck =
  | { readonly whole: true; readonly events: number; readonly head: string }
  | { readonly whole: false; readonly sequence: number; readonly why: 'gap' | 'previous' | 'hash' | 'time' };

/**
 * Walks one stream from its beginning and says whether the chain is unbroken as far as it goes, or at which
 * sequence number it first breaks and how: a missing event, a wrong link, changed content, or time running back.
 */
export function checkChain(links: Iterable<Link>): ChainCheck {
  let head = { sequence: 0, hash: genesis, at: Number.NEGATIVE_INFINITY };
  for (const link of links) {
    const broken = (why: 'gap' | 'previous' | 'hash' | 'time') =>
      ({ whole: false, sequence: link.sequence, why }) as const;
    if (link.sequence !== head.sequence + 1) return broken('gap');
    if (link.previous !== head.hash) return broken('previous');
    if (link.hash !== linkHash(link)) return broken('hash');
    if (link.at < head.at) return broken('time');
    head = link;
  }
  return { whole: true, events: head.sequence, head: head.hash };
}
