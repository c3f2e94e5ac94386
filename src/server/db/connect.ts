import postgres from 'postgres';
import type { Role } from '@/core/access/may';
import { settings } from '../settings';
import { type Client, Lanes, RolledBack } from './lanes';
import { type DatabaseRole, urlFor } from './roles';

export type Sql = Client;

/** One transaction of one organization: its statements, whose they are, and the instant it counts as. */
export interface Tx {
  readonly sql: Sql;
  readonly organization: string;
  /** Whole milliseconds, read once when the transaction began. */
  readonly now: number;
  /** The member that the session asked about stands for, when it still does. */
  readonly member: { readonly person: string; readonly roles: readonly Role[] } | null;
  /** What the command id asked about was answered before, and to which content. */
  readonly answered: { readonly content: string; readonly answer: string } | null;
  /** It has lost a race before: it holds what it reads to change, so that others wait instead of it losing again. */
  readonly patient: boolean;
  /** Writes that have been sent and need no answer before the commit. */
  readonly sent: Promise<unknown>[];
  /** What other processes are told after the commit, by channel. */
  readonly hints: { readonly channel: string; readonly payload: string }[];
}

/**
 * Sends a write without waiting for its answer. Writes go out in order on one connection, so what follows sees them;
 * the commit travels right behind the last of them, and comes to nothing when one of them failed.
 */
export function sendWrite(tx: Tx, write: PromiseLike<unknown>): void {
  const sent = Promise.resolve(write);
  // Its failure is told at the commit; until then it is not unhandled.
  sent.catch(() => {});
  tx.sent.push(sent);
}

/** Throws the first failure among the writes that were sent: the cause; what followed only met a failed transaction. */
async function answersTo(sent: Tx['sent']): Promise<void> {
  for (const answer of await Promise.allSettled(sent)) if (answer.status === 'rejected') throw answer.reason;
}

export const connectionOptions = {
  // Whole numbers of 64 bits stay far below 2^53 here: milliseconds, bytes and counts.
  types: { bigint: { to: 20, from: [20], serialize: String, parse: Number } },
  transform: { column: { from: postgres.toCamel, to: postgres.fromCamel }, undefined: null },
  onnotice: () => {},
};

interface Kept {
  lanes?: Lanes | undefined;
  role?: DatabaseRole;
}
// One set of connections a process, also when a bundler gives several copies of this module.
const scope = globalThis as { avendaDatabase?: Kept };
scope.avendaDatabase ??= {};
const kept = scope.avendaDatabase;

/** Says as which role this process works; the web processes are the application. */
export function workAs(role: DatabaseRole): void {
  kept.role = role;
}

function connect(options: object): Client {
  const { databaseUrl, secret } = settings();
  return postgres(urlFor(databaseUrl, secret, kept.role ?? 'avenda_app'), {
    ...connectionOptions,
    // Every question names the organization and a key, so one plan through an index is right for all. Otherwise a
    // young table with old statistics is planned anew at each question, which costs more than the answer.
    connection: { plan_cache_mode: 'force_generic_plan', enable_seqscan: false },
    ...options,
  }) as Client;
}

function lanes(): Lanes {
  // The lanes look after how long a connection lives: the driver would close one in the middle of a transaction.
  kept.lanes ??= new Lanes((onclose) => connect({ max: 1, idle_timeout: 0, max_lifetime: 0, onclose }), 24);
  return kept.lanes;
}

/** Says what is still to be told to others, and closes all connections of this process. */
export async function disconnect(): Promise<void> {
  if (telling) clearTimeout(telling);
  await tellNow();
  await kept.lanes?.close();
  kept.lanes = undefined;
}

/** Thrown when another writer was first; the whole transaction is tried again on what is there now. */
export class LostRace extends Error {}

function isRace(error: unknown): boolean {
  if (error instanceof LostRace) return true;
  const code = (error as { code?: string }).code;
  // 23505: the same sequence number, number or command id; 40001 and 40P01: the database's own word for it.
  return (
    code === '40001' ||
    code === '40P01' ||
    (code === '23505' && !(error as { constraint_name?: string }).constraint_name?.startsWith('person_'))
  );
}

/** How a transaction begins: the instant it counts as, and what is asked on entering. */
interface Entering {
  /** Sets the instant, for the demo's history and for tests. */
  readonly at?: number;
  /** The hash of a session's secret. */
  readonly session?: string | undefined;
  readonly command?: string | undefined;
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
  { at, session, command }: Entering = {},
): Promise<T> {
  if (at !== undefined && settings().mode !== 'demo') throw new Error('only the demo sets the time of a transaction');
  for (let attempt = 1; ; attempt += 1) {
    try {
      const sent: Tx['sent'] = [];
      const hints: Tx['hints'][number][] = [];
      const value = await lanes()
        .transaction(
          (sql) => sql<Entered[]>`
          select * from avenda_enter(${organization}, ${session ?? null}, ${command ?? null})`,
          async (sql, [row]) => {
            const { now, person, roles, content, answer } = row as Entered;
            const tx: Tx = {
              sql,
              organization,
              now: at ?? now,
              patient: attempt > 1,
              member: person === null || roles === null ? null : { person, roles },
              answered: content === null || answer === null ? null : { content, answer },
              sent,
              hints,
            };
            try {
              return await work(tx);
            } catch (error) {
              // A write that failed is the cause of whatever failed after it.
              await answersTo(sent);
              throw error;
            }
          },
        )
        .catch(async (error) => {
          if (error instanceof RolledBack) await answersTo(sent);
          throw error;
        });
      if (hints.length > 0) tellOthers(hints);
      return value;
    } catch (error) {
      if (!isRace(error) || attempt >= 8) throw error;
      await new Promise((resolve) => setTimeout(resolve, 4 * attempt + Math.random() * 12));
    }
  }
}

let waiting: Tx['hints'][number][] = [];
let telling: NodeJS.Timeout | null = null;

/**
 * Sends hints after the commit, those of a moment together. Inside a transaction a notification would make commits wait
 * for one another, each with its own flush to disk. A hint that is lost with its process is covered by polling.
 */
function tellOthers(hints: readonly Tx['hints'][number][]): void {
  waiting.push(...hints);
  telling ??= setTimeout(() => void tellNow(), 25);
}

async function tellNow(): Promise<void> {
  telling = null;
  if (waiting.length === 0) return;
  const told = new Map(waiting.map((hint) => [`${hint.channel} ${hint.payload}`, hint]));
  waiting = [];
  const channels = [...told.values()].map((hint) => hint.channel);
  const payloads = [...told.values()].map((hint) => hint.payload);
  await lanes()
    .transaction(
      (sql) =>
        sql`select pg_notify(channel, payload) from unnest(${channels}::text[], ${payloads}::text[]) as hint (channel, payload)`,
      async () => {},
    )
    .catch(() => {});
}

/** Runs `work` in a transaction in which no organization is set: doors, attempts, and which organizations there are. */
export async function outsideOrganizations<T>(work: (sql: Sql, now: number) => Promise<T>): Promise<T> {
  return lanes().transaction(
    (sql) => sql<{ now: number }[]>`select avenda_now() as now`,
    (sql, [row]) => work(sql, (row as { now: number }).now),
  );
}

/**
 * Listens on a channel until the function it gives is called. A connection that is lost is made anew, however long the
 * database is away, and `missed` is called then: what was told meanwhile is not told again.
 */
export async function listen(
  channel: string,
  hear: (payload: string) => void,
  missed: () => void = () => {},
): Promise<() => Promise<void>> {
  let stopped = false;
  let current: Client | null = null;
  const open = async (): Promise<void> => {
    const client = connect({
      max: 1,
      idle_timeout: 0,
      max_lifetime: 0,
      onnotify: (_channel: string, payload: string) => hear(payload),
      onclose: () => {
        if (stopped || current !== client) return;
        current = null;
        void again(client);
      },
    });
    try {
      await client.unsafe(`listen ${channel}`);
      current = client;
    } catch (error) {
      await client.end({ timeout: 1 }).catch(() => {});
      throw error;
    }
  };
  const again = async (lost: Client): Promise<void> => {
    await lost.end({ timeout: 1 }).catch(() => {});
    while (!stopped && !current) await open().then(missed, () => new Promise((resolve) => setTimeout(resolve, 1000)));
    // It was told to stop while it was connecting.
    if (stopped) await (current as Client | null)?.end({ timeout: 1 });
  };
  await open();
  return async () => {
    stopped = true;
    await current?.end({ timeout: 1 });
  };
}
