import { hashOf } from '@/core/trail/sha256';
import { sendWrite, type Tx } from '../db/connect';
import { randomBytes } from '../random';

/** What stands behind a hash: as it was written, erased on purpose, or no longer what was written. */
type Payload = { readonly state: 'intact'; readonly content: string } | { readonly state: 'erased' | 'changed' };

export type Payloads = ReadonlyMap<string, Payload>;

/** The hash under which a payload is named in events. */
function payloadHash(salt: string, content: string): string {
  return hashOf(`${salt}\n${content}`);
}

/** Keeps what a person wrote beside the events under a salted hash, and gives the hash. */
export function putPayload(tx: Tx, content: string): string {
  const salt = randomBytes(16).toString('hex');
  const hash = payloadHash(salt, content);
  sendWrite(
    tx.sql`insert into payload (organization, hash, salt, content) values (${tx.organization}, ${hash}, ${salt}, ${content})`,
  );
  return hash;
}

/** Keeps a note when there is one. */
export function putPayloadIfAny(tx: Tx, content: string | null | undefined): string | null {
  const text = content?.trim();
  return text ? putPayload(tx, text) : null;
}

/** What stands behind hashes, each checked against its hash. One that is missing altogether counts as changed. */
export async function payloads(tx: Tx, hashes: Iterable<string | null | undefined>): Promise<Payloads> {
  const wanted = [...new Set([...hashes].filter((hash): hash is string => !!hash))];
  if (wanted.length === 0) return new Map();
  const rows = await tx.sql<{ hash: string; salt: string; content: string | null }[]>`
    select hash, salt, content from payload where organization = ${tx.organization} and hash = any(${wanted})`;
  const found = new Map<string, Payload>(wanted.map((hash) => [hash, { state: 'changed' }]));
  for (const { hash, salt, content } of rows)
    if (content === null) found.set(hash, { state: 'erased' });
    else if (payloadHash(salt, content) === hash) found.set(hash, { state: 'intact', content });
  return found;
}

/** What is shown instead of a text that is not there as it was written. */
export const notShown = {
  erased: '[This text was erased.]',
  changed: '[This text is no longer what was written, and is not shown.]',
} as const;

/** The text behind a hash for people to read; null where there is no hash. */
export function noteIn(found: Payloads, hash: string | null | undefined): string | null {
  if (!hash) return null;
  const payload = found.get(hash);
  return payload?.state === 'intact' ? payload.content : notShown[payload?.state ?? 'changed'];
}

/** The value behind a hash, for files that are made of it. Throws when it was changed; null when it was erased. */
export function valueIn<T>(found: Payloads, hash: string): T | null {
  const payload = found.get(hash);
  if (payload?.state === 'intact') return JSON.parse(payload.content) as T;
  if (payload?.state === 'erased') return null;
  throw new Error(`the payload ${hash} is no longer what was written`);
}
