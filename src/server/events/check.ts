import { checkChain } from '@/core/trail/chain';
import type { Tx } from '../db/connect';
import { readWhole } from '../files/store';
import { payloads } from './payloads';
import type { AnyEvent } from './streams';
import { linksOf } from './streams';

/** One thing that is not as it was recorded. */
export interface TrailFault {
  readonly sequence: number;
  readonly what:
    | 'no-events'
    | 'gap'
    | 'previous'
    | 'hash'
    | 'time'
    | 'payload-changed'
    | 'file-missing'
    | 'file-changed';
  readonly hash?: string;
}

export interface TrailCheck {
  readonly events: number;
  readonly head: string;
  readonly payloads: number;
  /** Payloads that were erased on purpose: what they said is gone, that they were there is not. */
  readonly erased: number;
  readonly files: number;
  readonly faults: readonly TrailFault[];
}

const hashPattern = /^[0-9a-f]{64}$/;
/** Where events name payloads, and where files; everything else of that form is a scope or a hash of fields. */
const payloadKeys = new Set(['note', 'reason', 'evidence', 'value', 'before', 'after', 'quote']);
const fileKeys = new Set(['file', 'content', 'frozen', 'source']);

/** The payloads and files that an event names. */
function namedIn(type: AnyEvent['type'], data: unknown): { payloads: string[]; files: string[] } {
  const found = { payloads: [] as string[], files: [] as string[] };
  const visit = (value: unknown, key: string): void => {
    if (typeof value === 'string') {
      if (!hashPattern.test(value)) return;
      // In the ends of a circulation and a record, evidence is a file: the sheet.
      const sheet = key === 'evidence' && type !== 'seat.decided';
      if (payloadKeys.has(key) && !sheet) found.payloads.push(value);
      else if (fileKeys.has(key) || sheet) found.files.push(value);
    } else if (Array.isArray(value)) for (const inner of value) visit(inner, key);
    else if (typeof value === 'object' && value !== null)
      for (const [inner, member] of Object.entries(value)) visit(member, inner);
  };
  visit(data, '');
  return found;
}

/**
 * Checks a stream with everything it names: the chain of its events, every payload against its hash (erased told apart
 * from changed), every file against its content. A stream that should be there and has no events is a fault.
 */
export async function checkStream(tx: Tx, stream: string): Promise<TrailCheck> {
  const links = await linksOf(tx, stream);
  const faults: TrailFault[] = [];
  if (links.length === 0) faults.push({ sequence: 0, what: 'no-events' });
  const chain = checkChain(links);
  if (!chain.whole) faults.push({ sequence: chain.sequence, what: chain.why });
  const payloadsAt = new Map<string, number>();
  const filesAt = new Map<string, number>();
  for (const link of links) {
    const named = namedIn(link.type as AnyEvent['type'], JSON.parse(link.data));
    for (const hash of named.payloads) if (!payloadsAt.has(hash)) payloadsAt.set(hash, link.sequence);
    for (const hash of named.files) if (!filesAt.has(hash)) filesAt.set(hash, link.sequence);
  }
  let erased = 0;
  const found = await payloads(tx, payloadsAt.keys());
  for (const [hash, sequence] of payloadsAt) {
    const state = found.get(hash)?.state;
    if (state === 'erased') erased += 1;
    else if (state !== 'intact') faults.push({ sequence, what: 'payload-changed', hash });
  }
  for (const [hash, sequence] of filesAt) {
    const what = await fileFault(tx, hash);
    if (what) faults.push({ sequence, what, hash });
  }
  return {
    events: links.length,
    head: links.at(-1)?.hash ?? '',
    payloads: payloadsAt.size,
    erased,
    files: filesAt.size,
    faults: faults.sort((a, b) => a.sequence - b.sequence),
  };
}

async function fileFault(tx: Tx, hash: string): Promise<'file-missing' | 'file-changed' | null> {
  const [row] = await tx.sql<{ bytes: number }[]>`
    select bytes from file where organization = ${tx.organization} and hash = ${hash}`;
  if (!row) return 'file-missing';
  try {
    await readWhole(tx.organization, { hash, bytes: row.bytes, mediaType: '', facts: {} });
    return null;
  } catch {
    return 'file-changed';
  }
}
