import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import postgres from 'postgres';
import { connectionOptions } from './connect';
import { rolePassword } from './roles';

/**
 * Brings a database to the newest migration, as its owner. Each file runs once, whole or not at all, in order of its
 * name. Makes the two roles that the application and the worker use, and writes down the mode of the installation.
 */
export async function migrate(options: {
  readonly ownerUrl: string;
  readonly secret: string;
  readonly mode: 'demo' | 'real';
  readonly folder: string;
}): Promise<readonly string[]> {
  const sql = postgres(options.ownerUrl, { ...connectionOptions, max: 1 });
  try {
    await sql`select pg_advisory_lock(54210)`;
    for (const role of ['avenda_app', 'avenda_worker'] as const) {
      const password = rolePassword(options.secret, role);
      const [there] = await sql`select 1 from pg_roles where rolname = ${role}`;
      // The password is hexadecimal digits only, so it can stand in the statement.
      await sql.unsafe(
        there
          ? `alter role ${role} login password '${password}'`
          : `create role ${role} login nosuperuser nocreatedb nocreaterole noinherit password '${password}'`,
      );
    }
    await sql`create table if not exists migration (name text primary key, applied timestamptz not null default now())`;
    const done = new Set((await sql<{ name: string }[]>`select name from migration`).map((row) => row.name));
    const names = readdirSync(options.folder)
      .filter((name) => /^\d{4}_\w+\.sql$/.test(name))
      .sort();
    const applied: string[] = [];
    for (const name of names) {
      if (done.has(name)) continue;
      await sql.begin(async (tx) => {
        await tx.unsafe(readFileSync(path.join(options.folder, name), 'utf8'));
        await tx`insert into migration (name) values (${name})`;
      });
      applied.push(name);
    }
    await sql`insert into installation (mode) values (${options.mode}) on conflict do nothing`;
    const [row] = await sql<{ mode: string }[]>`select mode from installation`;
    if (row?.mode !== options.mode)
      throw new Error(`This database belongs to a ${row?.mode} installation and is not opened as ${options.mode}.`);
    return applied;
  } finally {
    await sql.end({ timeout: 5 });
  }
}
