import postgres from 'postgres';
import type { Role } from '@/core/access/may';
import { settings } from '../settings';
import { type DatabaseRole, urlFor } from './roles';
import { guardedSocket } from './socket';
import { type Client, type TransactionClient, transaction } from './transaction';

export type Sql = Client | TransactionClient;

/** One thing that has changed, and whom it concerns: everybody, or the people named, or whom the circulation concerns. */
export interface Change {
  readonly topic: 'circulation' | 'record' | 'draft' | 'people' | 'job' | 'clock' | 'session' | 'settings' | 'told';
  readonly id: string;
  /** People it concerns besides those the topic itself concerns: who loses access learns it once. */
  readonly also?: readonly string[];
  /** Which parts of it have changed; all where none are named. */
  readonly parts?: readonly string[];
}

/** A change as pages hear of it: its topic, of what, and after a sign of number which parts of that. */
export const topicOf = ({ topic, id, parts }: Change): string =>
  `${topic} ${id}`.trim() + (parts ? ` #${parts.join(',')}` : '');

/** One transaction of one organization: its statements, whose they are, and the instant it counts as. */
export interface Tx {
  readonly sql: TransactionClient;
  readonly organization: string;
  /** Whole milliseconds, read once when the transaction began. */
  readonly now: number;
  /** The member that the session asked about stands for, when it still does. */
  readonly member: { readonly person: string; readonly roles: readonly Role[] } | null;
  /** What the command id asked about was answered before, and to which content. */
  readonly answered: { readonly content: string; readonly answer: string } | null;
  /** It has lost a race before: it locks what it reads to change, so that others wait instead of it losing again. */
  readonly locking: boolean;
  /** What others are told after the commit. */
  readonly changes: Change[];
  /** Whether the worker has something to do after the commit. */
  readonly wakes: { worker: boolean };
}

/**
 * Sends a write without waiting for its answer. Writes go out in order on one connection, so what follows sees them; the
 * commit goes out with them, and the transaction comes to nothing when one of them failed.
 */
export function sendWrite(write: postgres.PendingQuery<postgres.Row[]>): void {
  // Its failure is told at the commit; until then it is not unhandled.
  write.execute().catch(() => {});
}

export const connectionOptions = {
  // Whole numbers of 64 bits stay far below 2^53 here: milliseconds, bytes and counts.
  types: { bigint: { to: 20, from: [20], serialize: String, parse: Number } },
  transform: { column: { from: postgres.toCamel, to: postgres.fromCamel }, undefined: null },
  onnotice: () => {},
};

interface Kept {
  pool?: Client | undefined;
  listener?: Client | undefined;
  role?: DatabaseRole;
}
// One pool a process, also when a bundler gives several copies of this module.
const shared = globalThis as { avendaDatabase?: Kept };
shared.avendaDatabase ??= {};
const kept = shared.avendaDatabase;

/** Says as which role this process works; the web processes are the application. */
export function workAs(role: DatabaseRole): void {
  kept.role = role;
}

function connect(options: object): Client {
  const { databaseUrl, secret } = settings();
  return postgres(urlFor(databaseUrl, secret, kept.role ?? 'avenda_app'), {
    ...connectionOptions,
    connect_timeout: 5,
    // The default waits for seconds after a few refusals; a database that is back should be used at once.
    backoff: () => 0.2,
    ...options,
  }) as unknown as Client;
}

function pool(): Client {
  kept.pool ??= connect({
    max: 16,
    idle_timeout: 30,
    socket: guardedSocket(),
    connection: { statement_timeout: 15_000, lock_timeout: 5000, idle_in_transaction_session_timeout: 30_000 },
  });
  return kept.pool;
}

/** Says what is still to be told to others, and closes all connections of this process. */
export async function disconnect(): Promise<void> {
  if (telling) clearTimeout(telling);
  await tellNow();
  await Promise.all([kept.pool?.end({ timeout: 5 }), kept.listener?.end({ timeout: 5 })]);
  kept.pool = undefined;
  kept.listener = undefined;
}

/** Thrown when another writer was first; the whole transaction is tried again on what is there now. */
export class LostRace extends Error {}

/** The constraints whose violation means that another writer was first: the same event, number or command id. */
const raced = new Set(['event_pkey', 'circulation_number', 'register_organization_number_key', 'command_pkey']);

function isRace(error: unknown): boolean {
  if (error instanceof LostRace) return true;
  const { code, constraint_name } = error as { code?: string; constraint_name?: string };
  return code === '40001' || code === '40P01' || (code === '23505' && raced.has(constraint_name ?? ''));
}

/** How a transaction begins: the instant it counts as, and what is asked on entering. */
export interface Entering {
  /** Sets the instant, for the demo's history and for tests. */
  readonly at?: number | undefined;
  /** The hash of a session's secret. */
  readonly session?: string | undefined;
  readonly command?: string | undefined;
  /** The page that asks: it knows already what it changes. */
  readonly page?: string | undefined;
  /** Whether it only reads: then all of it sees one moment, and nothing can be written in it. */
  readonly reads?: boolean | undefined;
}

interface Entered {
  readonly now: number;
  readonly person: string | null;
  readonly roles: readonly Role[] | null;
  readonly content: string | null;
  readonly answer: string | null;
}

/**
 * Runs `work` in a transaction in which only this organization exists. Losing a race tries the whole again, which is
 * safe because commands carry what they were based on.
 */
export async function inOrganization<T>(
  organization: string,
  work: (tx: Tx) => Promise<T>,
  { at, session, command, page, reads = false }: Entering = {},
): Promise<T> {
  if (at !== undefined && settings().mode !== 'demo') throw new Error('only the demo sets the time of a transaction');
  for (let attempt = 1; ; attempt += 1) {
    const changes: Change[] = [];
    const wakes = { worker: false };
    try {
      const enter = async (sql: TransactionClient) => {
        const [row] = await sql<Entered[]>`
          select * from avenda_enter(${organization}, ${session ?? null}, ${command ?? null})`;
        const { now, person, roles, content, answer } = row as Entered;
        return work({
          sql,
          organization,
          now: at ?? now,
          locking: attempt > 1,
          member: person === null || roles === null ? null : { person, roles },
          answered: content === null || answer === null ? null : { content, answer },
          changes,
          wakes,
        });
      };
      const value = await transaction(pool(), enter, { reads });
      tellOthers(organization, page, changes, wakes.worker);
      return value;
    } catch (error) {
      if (!isRace(error) || attempt >= 8) throw error;
      await new Promise((resolve) => setTimeout(resolve, 4 * attempt + Math.random() * 12));
    }
  }
}

/** Says after the commit that something has changed. */
export function notify(
  tx: Tx,
  topic: Change['topic'],
  id = '',
  also: readonly string[] = [],
  parts: readonly string[] | null = null,
): void {
  tx.changes.push({ topic, id, ...(also.length > 0 ? { also } : {}), ...(parts ? { parts } : {}) });
}

interface Told {
  readonly channel: string;
  readonly payload: string;
}

let waiting: Told[] = [];
let telling: NodeJS.Timeout | null = null;

/**
 * Sends change notifications after the commit, those of a moment together. Inside a transaction a notification would make
 * commits wait for one another, each with its own flush to disk. One that is lost with its process is covered by polling.
 */
function tellOthers(organization: string, page: string | undefined, changes: readonly Change[], worker: boolean): void {
  for (const change of changes)
    waiting.push({ channel: 'avenda_change', payload: JSON.stringify({ organization, page, ...change }) });
  if (worker) waiting.push({ channel: 'avenda_job', payload: organization });
  if (waiting.length > 0) telling ??= setTimeout(() => void tellNow(), 40);
}

async function tellNow(): Promise<void> {
  telling = null;
  if (waiting.length === 0) return;
  const told = new Map(waiting.map((entry) => [`${entry.channel} ${entry.payload}`, entry]));
  waiting = [];
  const channels = [...told.values()].map((entry) => entry.channel);
  const payloads = [...told.values()].map((entry) => entry.payload);
  await pool()`
    select pg_notify(channel, payload) from unnest(${channels}::text[], ${payloads}::text[]) as told (channel, payload)`.catch(
    () => {},
  );
}

/** Runs `work` in a transaction in which no organization is set: signing in, attempts, and which organizations there are. */
export async function outsideOrganizations<T>(work: (sql: Sql, now: number) => Promise<T>): Promise<T> {
  return transaction(pool(), async (sql) => {
    const [row] = await sql<{ now: number }[]>`select avenda_now() as now`;
    return work(sql, (row as { now: number }).now);
  });
}

/** Takes the next number of a scheme, durably and before whatever it is for. `above` is the highest that is known. */
export async function takeNumber(organization: string, scheme: string, above = 0): Promise<number> {
  return transaction(pool(), async (sql) => {
    const [row] = await sql<{ taken: number }[]>`select take_number(${organization}, ${scheme}, ${above}) as taken`;
    return (row as { taken: number }).taken;
  });
}

/** Whether the database answers. */
export async function databaseAnswers(): Promise<boolean> {
  return outsideOrganizations(async () => true).catch(() => false);
}

/**
 * Listens on a channel until the function it gives is called. The driver makes a lost connection anew, however long the
 * database is away; `missed` is called then, because what was told meanwhile is not told again.
 */
export async function listen(
  channel: string,
  hear: (payload: string) => void,
  missed: () => void = () => {},
): Promise<() => Promise<void>> {
  // A client of its own: a listener is silent for long, and the pool's connections are ended then.
  kept.listener ??= connect({ max: 1, idle_timeout: 0, max_lifetime: 0 });
  let first = true;
  let ended = false;
  const { unlisten } = await kept.listener.listen(
    channel,
    (payload) => {
      if (!ended) hear(payload);
    },
    () => {
      if (!first) missed();
      first = false;
    },
  );
  // After a lost connection the driver forgets on which one it listens, and cannot take it back.
  return async () => {
    ended = true;
    await unlisten();
  };
}
