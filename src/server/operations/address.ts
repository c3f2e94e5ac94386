import { isIP } from 'node:net';

/**
 * The client's address: the peer's, unless the peer is a configured proxy, which is then believed for the last
 * address it added. Whatever else a client writes into the header is ignored.
 */
export function clientAddress(
  peer: string,
  forwarded: string | readonly string[] | undefined,
  proxies: readonly string[],
): string {
  const plain = peer.replace(/^::ffff:/, '');
  if (!proxies.includes(plain)) return plain;
  const chain = (typeof forwarded === 'string' ? forwarded : (forwarded?.join(',') ?? ''))
    .split(',')
    .map((entry) => entry.trim());
  for (const entry of chain.reverse()) if (isIP(entry) && !proxies.includes(entry)) return entry;
  return plain;
}
