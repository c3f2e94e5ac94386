import type { CirculationEvent } from '@/core/circulation/events';
import { circulationEventVersions } from '@/core/circulation/events';
import { type RecordEvent, recordEventVersions } from '@/core/record/record';
import type { Json } from '@/core/trail/canonical';
import { chained, type Link, origin } from '@/core/trail/chain';
import { hashOf } from '@/core/trail/sha256';
import { sendWrite, type Tx } from '../db/connect';
import { randomBytes } from '../random';

export type AnyEvent = CirculationEvent | RecordEvent;

/** A stream as read: its events, and the head that the next append must follow. */
export interface Stream<E extends AnyEvent> {
  readonly id: string;
  readonly events: readonly E[];
  readonly head: { readonly sequence: number; readonly hash: string };
}

const versions: Readonly<Record<string, number>> = { ...circulationEventVersions, ...recordEventVersions };

/** The links of a stream as they are kept, oldest first. */
export async function linksOf(tx: Tx, stream: string): Promise<Link[]> {
  return tx.sql<Link[]>`
    select organization::text, stream, sequence, type, version, at, actor, on_behalf_of, data, previous, hash
    from event where organization = ${tx.organization} and stream = ${stream} order by sequence`;
}

/** The event in a link. Throws on a type or version that this program does not know. */
export function eventIn<E extends AnyEvent>(link: Link): E {
  if (versions[link.type] !== link.version) throw new Error(`unknown event ${link.type} version ${link.version}`);
  return {
    type: link.type,
    at: link.at,
    actor: link.actor,
    onBehalfOf: link.onBehalfOf,
    data: JSON.parse(link.data),
  } as E;
}

// What a transaction has read or written of a stream, so that checking rights and acting read it once.
const known = new WeakMap<Tx, Map<string, Stream<AnyEvent>>>();

function remember<E extends AnyEvent>(tx: Tx, stream: Stream<E>): Stream<E> {
  let streams = known.get(tx);
  if (!streams) {
    streams = new Map();
    known.set(tx, streams);
  }
  streams.set(stream.id, stream as unknown as Stream<AnyEvent>);
  return stream;
}

export async function readStream<E extends AnyEvent>(tx: Tx, stream: string): Promise<Stream<E>> {
  const before = known.get(tx)?.get(stream);
  if (before) return before as unknown as Stream<E>;
  if (tx.patient) await tx.sql`select pg_advisory_xact_lock(hashtextextended(${`${tx.organization} ${stream}`}, 0))`;
  const links = await linksOf(tx, stream);
  const last = links[links.length - 1];
  return remember(tx, {
    id: stream,
    events: links.map((link) => eventIn<E>(link)),
    head: last ? { sequence: last.sequence, hash: last.hash } : { sequence: 0, hash: origin },
  });
}

/**
 * Adds events after the head that was read. When somebody else appended meanwhile the primary key refuses, and the
 * transaction is tried again from its beginning.
 */
export async function append<E extends AnyEvent>(tx: Tx, stream: Stream<E>, events: readonly E[]): Promise<Stream<E>> {
  if (events.length === 0) return stream;
  let head = stream.head;
  const links: Link[] = [];
  for (const event of events) {
    const link = chained(head, {
      organization: tx.organization,
      stream: stream.id,
      type: event.type,
      version: versions[event.type] as number,
      at: event.at,
      actor: event.actor,
      onBehalfOf: event.onBehalfOf,
      data: event.data as unknown as Json,
    });
    links.push(link);
    head = link;
  }
  sendWrite(tx, tx.sql`insert into event ${tx.sql(links as unknown as Record<string, string>[])}`);
  return remember(tx, {
    id: stream.id,
    events: [...stream.events, ...events],
    head: { sequence: head.sequence, hash: head.hash },
  });
}

/** Puts words aside under a salted hash, and gives the hash. */
export async function putPayload(tx: Tx, content: string): Promise<string> {
  const salt = randomBytes(16).toString('hex');
  const hash = hashOf(`${salt}\n${content}`);
  sendWrite(
    tx,
    tx.sql`insert into payload (organization, hash, salt, content) values (${tx.organization}, ${hash}, ${salt}, ${content})`,
  );
  return hash;
}

/** Puts words aside when there are any. */
export async function putPayloadIfAny(tx: Tx, content: string | null | undefined): Promise<string | null> {
  const text = content?.trim();
  return text ? putPayload(tx, text) : null;
}

/** The contents behind hashes; an erased one is missing. */
export async function payloads(
  tx: Tx,
  hashes: Iterable<string | null | undefined>,
): Promise<ReadonlyMap<string, string>> {
  const wanted = [...new Set([...hashes].filter((hash): hash is string => !!hash))];
  if (wanted.length === 0) return new Map();
  const rows = await tx.sql<{ hash: string; content: string | null }[]>`
    select hash, content from payload where organization = ${tx.organization} and hash = any(${wanted})`;
  return new Map(rows.filter((row) => row.content !== null).map((row) => [row.hash, row.content as string]));
}

/** Tells every process, once and after the commit, that something of this organization has changed. */
export function hint(tx: Tx, about: string): void {
  tx.hints.push({ channel: 'avenda_change', payload: `${tx.organization} ${about}` });
}
