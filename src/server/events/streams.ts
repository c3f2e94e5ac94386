import {
  type CirculationEvent,
  type CirculationEventType,
  circulationEventVersions,
} from '@/core/circulation/run/events';
import { type AdministrationEvent, administrationEventVersions } from '@/core/people/events';
import { type RecordEvent, type RecordEventType, recordEventVersions } from '@/core/record/record';
import type { Json } from '@/core/trail/canonical';
import { chained, genesis, type Link } from '@/core/trail/chain';
import { type Lift, lifted } from '@/core/trail/lift';
import { sendWrite, type Tx } from '../db/connect';

export const circulationStream = (id: string) => `circulation:${id}`;
export const recordStream = (id: string) => `record:${id}`;

export type AnyEvent = CirculationEvent | RecordEvent | AdministrationEvent;

/** A stream as read: the state its events fold to, and the head that the next append must follow. */
export interface Stream<S> {
  readonly id: string;
  readonly state: S | null;
  readonly head: { readonly sequence: number; readonly hash: string };
}

/** How the events of one kind of stream become a state. */
export type Fold<S, E> = (events: Iterable<E>, from: S | null) => S | null;

const reading = {
  versions: { ...circulationEventVersions, ...recordEventVersions, ...administrationEventVersions } as Readonly<
    Record<CirculationEventType | RecordEventType | AdministrationEvent['type'], number>
  >,
  // No type has had another version yet; the first lift goes here.
  lifts: {} as Readonly<Record<string, readonly Lift[]>>,
};

/** The links of a stream as they are kept, oldest first. */
export async function linksOf(tx: Tx, stream: string): Promise<Link[]> {
  return linksIn(tx, [stream]);
}

/** The links of several streams, each oldest first. */
async function linksIn({ sql, organization }: Tx, streams: readonly string[]): Promise<Link[]> {
  const where =
    streams.length === 1 ? sql`stream = ${streams[0] as string}` : sql`stream = any(${streams as string[]})`;
  return sql<Link[]>`
    select organization::text, stream, sequence, type, version, at, actor, on_behalf_of, data, previous, hash
    from event where organization = ${organization} and ${where} order by stream, sequence`;
}

/** The event in a link, as its type is written now. Throws on a type or version that this program does not know. */
export function eventIn<E extends AnyEvent>(link: Link): E {
  return {
    type: link.type,
    at: link.at,
    actor: link.actor,
    onBehalfOf: link.onBehalfOf,
    data: lifted(reading, link.type, link.version, JSON.parse(link.data)),
  } as E;
}

/** The events of a stream, for those who tell its history. */
export async function eventsOf<E extends AnyEvent>(tx: Tx, stream: string): Promise<E[]> {
  return (await linksOf(tx, stream)).map((link) => eventIn<E>(link));
}

// What a transaction has read or written of a stream, so that checking rights and acting read and fold it once.
const known = new WeakMap<Tx, Map<string, Stream<unknown>>>();

function remember<S>(tx: Tx, stream: Stream<S>): Stream<S> {
  const streams = known.get(tx) ?? new Map<string, Stream<unknown>>();
  known.set(tx, streams);
  streams.set(stream.id, stream);
  return stream;
}

/** The state of a stream now; read and folded once a transaction. */
export async function readStream<S, E extends AnyEvent>(tx: Tx, id: string, fold: Fold<S, E>): Promise<Stream<S>> {
  await readStreams(tx, [id], fold);
  return known.get(tx)?.get(id) as Stream<S>;
}

/** Reads and folds streams that are needed together, those that are not known yet, in one query. */
export async function readStreams<S, E extends AnyEvent>(
  tx: Tx,
  ids: readonly string[],
  fold: Fold<S, E>,
): Promise<void> {
  const { sql, organization } = tx;
  const unknown = ids.filter((id) => !known.get(tx)?.has(id));
  if (unknown.length === 0) return;
  if (tx.locking)
    await sql`
      select pg_advisory_xact_lock(hashtextextended(${`${organization} `} || id, 0))
      from unnest(${unknown.toSorted()}::text[]) as id`;
  const links = new Map<string, Link[]>(unknown.map((id) => [id, []]));
  for (const link of await linksIn(tx, unknown)) links.get(link.stream)?.push(link);
  for (const [id, own] of links) {
    const last = own[own.length - 1];
    remember(tx, {
      id,
      state: fold(
        own.map((link) => eventIn<E>(link)),
        null,
      ),
      head: last ? { sequence: last.sequence, hash: last.hash } : { sequence: 0, hash: genesis },
    });
  }
}

/**
 * Adds events after the head that was read; `state` is the state after them. When somebody else appended meanwhile the
 * primary key refuses, and the transaction is tried again from its beginning.
 */
export function append<S>(tx: Tx, stream: Stream<S>, events: readonly AnyEvent[], state: S): Stream<S> {
  if (events.length === 0) return stream;
  let { head } = stream;
  const links: Link[] = [];
  for (const event of events) {
    const link = chained(head, {
      organization: tx.organization,
      stream: stream.id,
      type: event.type,
      version: reading.versions[event.type],
      at: event.at,
      actor: event.actor,
      onBehalfOf: event.onBehalfOf,
      data: event.data as unknown as Json,
    });
    links.push(link);
    head = link;
  }
  sendWrite(tx.sql`insert into event ${tx.sql(links as unknown as Record<string, string>[])}`);
  return remember(tx, { id: stream.id, state, head: { sequence: head.sequence, hash: head.hash } });
}
