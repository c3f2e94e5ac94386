import type postgres from 'postgres';

export type Client = postgres.Sql<{ bigint: number }>;

/** A connection of its own, on which one transaction runs at a time. */
interface Lane {
  readonly client: Client;
  /** Its connection was closed since it was opened; nothing more is sent on it. */
  lost: boolean;
  /** Ends the transaction that runs on it, when the connection closes. */
  fail: ((error: Error) => void) | null;
  idle: NodeJS.Timeout | null;
}

/** The transaction was rolled back at its commit, because a statement in it had failed. */
export class RolledBack extends Error {}

const idleFor = 60_000;

const connectionLost = (): Error => new Error('the connection to the database was lost');

/**
 * Connections for transactions. The driver's own transactions wait for each step, and a connection that is lost between
 * two statements ends the whole process; here the beginning travels with the first question and the commit with the
 * last write, and a lost connection is an error of the one transaction that ran on it.
 */
export class Lanes {
  readonly #open: (onclose: () => void) => Client;
  readonly #most: number;
  readonly #free: Lane[] = [];
  readonly #waiting: ((lane: Lane) => void)[] = [];
  #count = 0;
  #closed = false;

  /** `open` makes a client of one connection that calls back when it closes; at most `most` are open at once. */
  constructor(open: (onclose: () => void) => Client, most: number) {
    this.#open = open;
    this.#most = most;
  }

  /**
   * Runs `work` in a transaction and commits what it did, or rolls it back when it throws. `ask` is sent together with
   * the beginning, and `work` gets its answer. Statements that `work` sent and did not wait for are part of it; when
   * one of them failed, RolledBack is thrown.
   */
  async transaction<A, T>(
    ask: (sql: Client) => PromiseLike<A>,
    work: (sql: Client, answer: A) => Promise<T>,
  ): Promise<T> {
    const lane = await this.#take();
    let over = false;
    // The driver leaves a statement unanswered that is sent between a connection's fault and its end.
    const lost = new Promise<never>((_, reject) => {
      lane.fail = reject;
    });
    lost.catch(() => {});
    const sql = new Proxy(lane.client, {
      apply: (client, self, statement) => {
        if (lane.lost) throw connectionLost();
        if (over) throw new Error('a statement came after the end of its transaction');
        return Reflect.apply(client, self, statement);
      },
    });
    const run = async (): Promise<T> => {
      const [, answer] = await Promise.all([lane.client.unsafe('begin'), ask(sql)]);
      const value = await work(sql, answer);
      over = true;
      if (lane.lost) throw connectionLost();
      const ended = await lane.client.unsafe('commit');
      if (ended.command !== 'COMMIT') throw new RolledBack('a statement in the transaction had failed');
      return value;
    };
    try {
      return await Promise.race([run(), lost]);
    } catch (error) {
      over = true;
      // What cannot be rolled back is no longer there; the server has done it when it missed the connection.
      if (!lane.lost && !(error instanceof RolledBack))
        await Promise.race([lane.client.unsafe('rollback'), lost]).catch(() => {
          lane.lost = true;
        });
      throw error;
    } finally {
      lane.fail = null;
      this.#give(lane);
    }
  }

  /** Closes all connections; one in use is closed when its transaction ends. */
  async close(): Promise<void> {
    this.#closed = true;
    await Promise.all(this.#free.splice(0).map((lane) => this.#end(lane)));
  }

  #make(): Lane {
    const lane: Lane = {
      client: this.#open(() => {
        lane.lost = true;
        lane.fail?.(connectionLost());
      }),
      lost: false,
      fail: null,
      idle: null,
    };
    return lane;
  }

  async #take(): Promise<Lane> {
    const lane = this.#free.pop();
    if (lane) {
      if (lane.idle) clearTimeout(lane.idle);
      if (!lane.lost) return lane;
      void this.#end(lane);
      return this.#make();
    }
    if (this.#count === this.#most) return new Promise((resolve) => this.#waiting.push(resolve));
    this.#count += 1;
    return this.#make();
  }

  #give(used: Lane): void {
    const lane = used.lost ? this.#make() : used;
    if (used.lost) void this.#end(used);
    const next = this.#waiting.shift();
    if (next) next(lane);
    else if (this.#closed) void this.#end(lane);
    else {
      lane.idle = setTimeout(() => {
        this.#free.splice(this.#free.indexOf(lane), 1);
        this.#count -= 1;
        void this.#end(lane);
      }, idleFor).unref();
      this.#free.push(lane);
    }
  }

  async #end(lane: Lane): Promise<void> {
    if (lane.idle) clearTimeout(lane.idle);
    await lane.client.end({ timeout: 5 }).catch(() => {});
  }
}
