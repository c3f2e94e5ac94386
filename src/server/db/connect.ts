import postgres from 'postgres';
import { settings } from '../settings';
import { type DatabaseRole, urlFor } from './roles';

export type Sql = postgres.TransactionSql;

/** One transaction of one organization: its statements, whose they are, and the instant it counts as. */
export interface Tx {
  readonly sql: Sql;
  readonly organization: string;
  /** Whole milliseconds, read once when the transaction began. */
  readonly now: number;
  /** Writes that have been sent and need no answer before the commit. */
  readonly sent: Promise<unknown>[];
  /** What other processes are told after the commit, by channel. */
  readonly hints: { readonly channel: string; readonly payload: string }[];
}

/**
 * Sends a write without waiting for its answer: the commit waits for all of them, and fails when one of them failed.
 * Writes go out in order on one connection, so what follows sees them.
 */
export function sendWrite(tx: Tx, write: PromiseLike<unknown>): void {
  const sent = Promise.resolve(write);
  // Its failure is told at the commit; until then it is not unhandled.
  sent.catch(() => {});
  tx.sent.push(sent);
}

async function answered(tx: Tx): Promise<void> {
  const answers = await Promise.allSettled(tx.sent);
  // The first failure in the order of sending is the cause; what followed it only met the failed transaction.
  for (const answer of answers) if (answer.status === 'rejected') throw answer.reason;
}

export const connectionOptions = {
  // Whole numbers of 64 bits stay far below 2^53 here: milliseconds, bytes and counts.
  types: { bigint: { to: 20, from: [20], serialize: String, parse: Number } },
  transform: { column: { from: postgres.toCamel, to: postgres.fromCamel }, undefined: null },
  onnotice: () => {},
};

interface Kept {
  pool?: postgres.Sql<{ bigint: number }>;
  role?: DatabaseRole;
}
// One pool a process, also when a bundler gives several copies of this module.
const scope = globalThis as { avendaDatabase?: Kept };
scope.avendaDatabase ??= {};
const kept = scope.avendaDatabase;

/** Says as which role this process works; the web processes are the application. */
export function workAs(role: DatabaseRole): void {
  kept.role = role;
}

function pool(): postgres.Sql<{ bigint: number }> {
  if (!kept.pool) {
    const { databaseUrl, secret } = settings();
    kept.pool = postgres(urlFor(databaseUrl, secret, kept.role ?? 'avenda_app'), {
      ...connectionOptions,
      max: 24,
      idle_timeout: 60,
    }) as postgres.Sql<{ bigint: number }>;
  }
  return kept.pool;
}

export async function disconnect(): Promise<void> {
  await kept.pool?.end({ timeout: 5 });
  kept.pool = undefined;
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

/**
 * Runs `work` in a transaction in which only this organization exists. Losing a race tries the whole again, which is
 * safe because commands carry what they were based on. `at` sets the instant, for the demo's history and for tests.
 */
export async function inOrganization<T>(
  organization: string,
  work: (tx: Tx) => Promise<T>,
  { at }: { readonly at?: number } = {},
): Promise<T> {
  if (at !== undefined && settings().mode !== 'demo') throw new Error('only the demo sets the time of a transaction');
  for (let attempt = 1; ; attempt += 1) {
    try {
      const hints: Tx['hints'][number][] = [];
      const value = (await pool().begin(async (sql) => {
        const [row] = await sql<{ now: number }[]>`
          select set_config('avenda.organization', ${organization}, true), avenda_now() as now`;
        const tx: Tx = { sql, organization, now: at ?? (row as { now: number }).now, sent: [], hints };
        try {
          const value = await work(tx);
          await answered(tx);
          return value;
        } catch (error) {
          // A write that failed is the cause of whatever failed after it.
          await answered(tx);
          throw error;
        }
      })) as T;
      if (hints.length > 0) tellOthers(hints);
      return value;
    } catch (error) {
      if (!isRace(error) || attempt >= 8) throw error;
      await new Promise((resolve) => setTimeout(resolve, 4 * attempt + Math.random() * 12));
    }
  }
}

let waiting: Tx['hints'][number][] = [];

/**
 * Sends hints after the commit, those of a moment together. Inside a transaction a notification would make commits wait
 * for one another, each with its own flush to disk. A hint that is lost with its process is covered by polling.
 */
function tellOthers(hints: readonly Tx['hints'][number][]): void {
  if (waiting.length === 0)
    setTimeout(() => {
      const told = new Map(waiting.map((hint) => [`${hint.channel} ${hint.payload}`, hint]));
      waiting = [];
      const channels = [...told.values()].map((hint) => hint.channel);
      const payloads = [...told.values()].map((hint) => hint.payload);
      pool()`select pg_notify(channel, payload) from unnest(${channels}::text[], ${payloads}::text[]) as hint (channel, payload)`.catch(
        () => {},
      );
    }, 8);
  waiting.push(...hints);
}

/** Runs `work` in a transaction in which no organization is set: doors, attempts, and which organizations there are. */
export async function outsideOrganizations<T>(work: (sql: Sql, now: number) => Promise<T>): Promise<T> {
  return (await pool().begin(async (sql) => {
    const [row] = await sql<{ now: number }[]>`select avenda_now() as now`;
    return work(sql, (row as { now: number }).now);
  })) as T;
}

/** Listens on a channel with this process's one listening connection. Gives a function that stops it. */
export async function listen(channel: string, hear: (payload: string) => void): Promise<() => Promise<void>> {
  const { unlisten } = await pool().listen(channel, hear);
  return unlisten;
}
