import path from 'node:path';
import postgres from 'postgres';
import type { TestProject } from 'vitest/node';
import { migrate } from '@/server/db/migrate';

/** Starts the tests' own cluster (durability off), migrates a template, builds the child processes; stops it all at the end. */
export default async function setUp(project: TestProject): Promise<() => void> {
  const scripts = path.resolve(import.meta.dirname, '../../scripts/lib');
  const { startCluster, ensureDatabase } = (await import(path.join(scripts, 'cluster.mjs'))) as {
    startCluster: (
      options: object,
    ) => Promise<{ port: number; stop: () => void; query: (database: string, text: string) => string }>;
    ensureDatabase: (cluster: object, name: string) => string;
  };
  const { bundle } = (await import(path.join(scripts, 'build.mjs'))) as { bundle: () => Promise<void> };
  await bundle();
  const cluster = await startCluster({ name: 'test', firstPort: 54_410, careless: true });
  cluster.query('postgres', 'drop database if exists avenda_template with (force)');
  const ownerUrl = ensureDatabase(cluster, 'avenda_template');
  const secret = 'the secret of the integration tests, 32+ characters';
  await migrate({ ownerUrl, secret, mode: 'demo', folder: path.resolve(import.meta.dirname, '../../db/migrations') });
  const admin = postgres(ownerUrl.replace(/\/avenda_template$/, '/postgres'), { max: 1 });
  for (const { datname } of await admin<
    { datname: string }[]
  >`select datname from pg_database where datname like 'avenda_t\\_%'`)
    await admin.unsafe(`drop database ${datname} with (force)`);
  await admin.end();
  project.provide('ownerUrl', ownerUrl);
  project.provide('secret', secret);
  return () => cluster.stop();
}

declare module 'vitest' {
  interface ProvidedContext {
    ownerUrl: string;
    secret: string;
  }
}
