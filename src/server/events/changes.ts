import { type Role, visibilityOf } from '@/core/access/may';
import { type Change, inOrganization, listen, topicOf } from '../db/connect';
import { circulationStream } from './streams';

/** Somebody who is told what changes: one event stream of one session. */
interface Listener {
  readonly organization: string;
  readonly person: string;
  readonly roles: readonly Role[];
  /** The session's name; its streams end with it. */
  readonly session: string;
  /** When what it shows was answered, in milliseconds of this machine; what was told since is told again. */
  readonly since: number;
  readonly tell: (told: string) => void;
  readonly end: () => void;
}

interface Announcement extends Change {
  readonly organization: string;
  readonly page?: string;
}

interface Recent {
  readonly told: Announcement;
  /** Whom it concerned; null everybody. */
  readonly people: readonly string[] | null;
  readonly at: number;
}

interface Hub {
  readonly listeners: Set<Listener>;
  /** What was told lately, oldest first. */
  recent: Recent[];
  started: Promise<unknown> | null;
}
// One listening connection a process, however many copies of this module a bundler makes.
const shared = globalThis as { avendaChanges?: Hub };
shared.avendaChanges ??= { listeners: new Set(), recent: [], started: null };
const hub = shared.avendaChanges;

/** How long a page may take from its first question until it listens; what was told meanwhile is told when it does. */
const latelyMs = 30_000;
const mostRecent = 2000;
/** How many event streams one session may have open; the oldest gives way. */
const mostStreams = 6;

/**
 * Whom a change concerns: the people of its circulation, whoever covers for them and whoever controls all of them, or those it
 * names; null everybody.
 */
async function concerned(told: Announcement): Promise<readonly string[] | null> {
  if (told.topic === 'circulation') {
    const rows = await inOrganization(
      told.organization,
      (tx) => tx.sql<{ person: string }[]>`
        with recursive concerned (person) as ((
        select i.person from involvement i where i.organization = ${tx.organization} and i.stream = ${circulationStream(told.id)}
        union select unnest(g.members) from involvement i
        join asked_group g on g.organization = i.organization and i.person = 'group:' || g.id
        where i.organization = ${tx.organization} and i.stream = ${circulationStream(told.id)}
        union select unnest(array[u.lead, u.deputy]) from profile f
        join circulation c on c.organization = f.organization and c.id = ${told.id}
        join record_unit u on u.organization = f.organization and u.record = c.record
        where f.organization = ${tx.organization} and f.rules @> array['leadsSteer'])
        union select cover.value ->> 'by' from concerned
        join absence a on a.organization = ${tx.organization} and a.person = concerned.person
          and a.starts <= ${tx.now} and a.ends > ${tx.now}
        cross join jsonb_array_elements(a.covers) as cover)
        select person from concerned where person is not null`,
    );
    return [...rows.map((row) => row.person), ...(told.also ?? [])];
  }
  // A draft concerns those who work on it, what somebody is told only them.
  return told.topic === 'draft' || told.topic === 'told' ? (told.also ?? []) : null;
}

function reaches({ told, people }: Recent, listener: Listener): boolean {
  if (told.organization !== listener.organization || told.topic === 'session') return false;
  if (people === null || people.includes(listener.person)) return true;
  const { person, roles } = listener;
  return (
    told.topic === 'circulation' && visibilityOf({ kind: 'member', person, roles }, 'circulation.read').kind === 'all'
  );
}

function textOf(told: Announcement): string {
  return JSON.stringify({ topic: topicOf(told), page: told.page ?? null });
}

async function hear(payload: string): Promise<void> {
  const told = JSON.parse(payload) as Announcement;
  if (told.topic === 'session') for (const listener of hub.listeners) if (listener.session === told.id) listener.end();
  const entry = { told, people: await concerned(told).catch(() => null), at: Date.now() };
  hub.recent = [...hub.recent.filter((old) => entry.at - old.at < latelyMs), entry].slice(-mostRecent);
  for (const listener of hub.listeners) if (reaches(entry, listener)) listener.tell(textOf(told));
}

const everything = JSON.stringify({ topic: 'everything', page: null });

/**
 * Tells a listener what changes and concerns them until the function it gives is called: first what was told since its answers
 * were given, half a minute back at most, because a page has its answers before it listens.
 */
export async function follow(listener: Listener): Promise<() => void> {
  const first = !hub.started;
  hub.started ??= listen(
    'avenda_change',
    (payload) => void hear(payload).catch(() => {}),
    () => {
      for (const known of hub.listeners) known.tell(everything);
    },
  ).catch((error) => {
    // The next one who wants to listen tries again.
    hub.started = null;
    throw error;
  });
  await hub.started;
  const own = [...hub.listeners].filter((known) => known.session === listener.session);
  for (const old of own.slice(0, Math.max(0, own.length - mostStreams + 1))) old.end();
  hub.listeners.add(listener);
  // Nobody listened here before the first one came, so nobody knows what was told.
  if (first) listener.tell(everything);
  const from = Math.max(listener.since, Date.now() - latelyMs);
  const lately = hub.recent.filter((entry) => entry.at >= from && reaches(entry, listener));
  for (const text of new Set(lately.map((entry) => textOf(entry.told)))) listener.tell(text);
  return () => {
    hub.listeners.delete(listener);
  };
}
