import type { Tx } from './connect';

/** The columns of a table beside its organization, each once: as it is, or as JSON. */
type Columns<R> = { readonly [C in keyof R]-?: 'value' | 'json' };

/**
 * A table by the rows it holds. What is written has every column, and what is read names every one: a column that is
 * forgotten in the declaration, or left out of a row, does not compile.
 */
export function table<R extends object>(name: string, columns: Columns<R>) {
  const names = Object.keys(columns) as (keyof R & string)[];
  const stored = ({ sql }: Tx, row: Partial<R>) => {
    const own = names.filter((column) => column in row);
    return Object.fromEntries(
      own.map((column) => {
        const value = row[column];
        return [column, columns[column] === 'json' && value !== null ? sql.json(value as never) : value];
      }),
    );
  };
  return {
    /** Its columns to select, of the rows called `as` where a query has several. */
    list: ({ sql }: Tx, as: string) => sql(names.map((column) => `${as}.${column}`)),
    /** Inserts rows, of which there is at least one; what follows (`on conflict ...`) is the caller's. */
    insert: (tx: Tx, rows: readonly R[]) => {
      const all = rows.map((row): object => ({ organization: tx.organization, ...stored(tx, row) }));
      return tx.sql`insert into ${tx.sql(name)} ${tx.sql(all as never, ...(['organization', ...names] as never[]))}`;
    },
    /** What an update sets, `column = value` by column: those given, or all of a row but its key. */
    set: (tx: Tx, changed: Partial<R>) => {
      const { sql } = tx;
      const each = Object.entries(stored(tx, changed)).map(
        ([column, value]) => sql`${sql(column)} = ${value as never}`,
      );
      return each.reduce((all, one) => sql`${all}, ${one}`);
    },
    names,
  };
}
