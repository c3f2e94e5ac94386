import postgres from 'postgres';

export type Client = postgres.Sql<{ bigint: number }>;
export type TransactionClient = postgres.TransactionSql<{ bigint: number }>;

/** A statement as the driver keeps it (Postgres.js 3.4.9): `handler` sends it, `reject` answers it. */
interface Statement {
  handler?: (query: Statement) => unknown;
  reject: (error: Error) => void;
}

const lost = /^(CONNECTION_|ECONN|EPIPE|57P0)/;

const tooLate = new Error('a statement came after the end of its transaction');

/**
 * One transaction on the driver's own pool that survives the loss of its connection. With plain `sql.begin` a statement
 * that is sent after the loss reaches whoever has the connection by then, a failed statement that nobody waited for makes
 * COMMIT a ROLLBACK that is told as success, and some losses end the process. Here nothing is sent once it has ended,
 * a commit is believed only when every statement before it went well, and a loss is an error of this transaction alone.
 * A transaction that could not even begin is tried again for three seconds. One that only reads sees one moment, and the
 * database refuses what it would write.
 */
export async function transaction<T>(
  sql: Client,
  work: (tx: TransactionClient) => Promise<T>,
  { reads = false, since = Date.now() }: { readonly reads?: boolean; readonly since?: number } = {},
): Promise<T> {
  let ended: Error | null = null;
  let began = false;
  const sent: Statement[] = [];
  const watched = <Q>(query: Q): Q => {
    const statement = query as Statement;
    const send = statement?.handler;
    // Only statements have one; fragments are left as they are.
    if (send)
      statement.handler = (asked) => {
        if (ended) return asked.reject(ended);
        sent.push(asked);
        return send(asked);
      };
    return query;
  };
  // Its own rollback must not go out once `begin` has been answered: it would reach another transaction.
  const never = () => new Promise<never>(() => {});
  const running = sql.begin(reads ? 'isolation level repeatable read, read only' : '', async (tx) => {
    began = true;
    const guard = new Proxy(tx, {
      apply: (target, self, args) => watched(Reflect.apply(target as never, self, args)),
      get: (target, key) =>
        key === 'unsafe'
          ? (...args: Parameters<typeof tx.unsafe>) => watched(target.unsafe(...args))
          : Reflect.get(target, key),
    });
    try {
      const value = await work(guard);
      return ended ? await never() : value;
    } catch (error) {
      // 'close' comes after 'error'.
      if (!(error instanceof postgres.PostgresError)) await new Promise((resolve) => setTimeout(resolve, 5));
      // Of several failures the first is the cause; what came after it only met a failed transaction.
      const first = (await Promise.allSettled(sent as unknown as PromiseLike<unknown>[])).find(
        (answer) => answer.status === 'rejected',
      );
      if (ended) return await never();
      throw first?.status === 'rejected' && error instanceof postgres.PostgresError ? first.reason : error;
    }
  }) as Promise<T>;
  running.then(
    () => {
      ended = tooLate;
    },
    (error: Error) => {
      ended = error;
      for (const statement of sent) statement.reject(error);
    },
  );
  // Writes that nobody waited for go out together with the commit; PostgreSQL rolls back when one of them failed.
  const whole = running.then(async (value) => {
    await Promise.all(sent as unknown as PromiseLike<unknown>[]);
    return value;
  });
  return whole.catch(async (error: Error & { code?: string }) => {
    if (began || Date.now() - since > 3000 || !lost.test(error.code ?? '')) throw error;
    await new Promise((resolve) => setTimeout(resolve, 20 + 150 * Math.random()));
    return transaction(sql, work, { reads, since });
  });
}
