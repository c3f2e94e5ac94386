import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';

const root = path.resolve(import.meta.dirname, '../..');
const secret = path.join(root, '.data/relic.secret');

interface Cluster {
  readonly folder: string;
  readonly query: (database: string, text: string) => string;
  readonly stop: () => void;
}
const { startCluster } = (await import(path.join(root, 'scripts/lib/cluster.mjs'))) as {
  startCluster: (options: object) => Promise<Cluster>;
};
let folder = '';
/** Starts the cluster, gives how many relics stand in it, and stops it. */
async function relics(more: object = {}): Promise<string> {
  const cluster = await startCluster({ name: 'relic', firstPort: 54_700, careless: true, ...more });
  folder = cluster.folder;
  try {
    return cluster.query('postgres', "select count(*) from pg_tables where tablename = 'relic'");
  } finally {
    cluster.stop();
  }
}

afterAll(() => {
  for (const left of [folder, secret]) rmSync(left, { recursive: true, force: true });
});

describe('a database cluster', () => {
  it('is kept from start to start; one whose secret went with an earlier clone is made anew, unless it is precious', async () => {
    const cluster = await startCluster({ name: 'relic', firstPort: 54_700, careless: true });
    cluster.query('postgres', 'create table relic (n integer)');
    cluster.stop();
    expect(await relics()).toBe('1');
    const right = readFileSync(secret, 'utf8');
    writeFileSync(secret, 'f'.repeat(64));
    await expect(relics({ precious: true })).rejects.toThrow(/of an earlier installation .* does not open/);
    // Refused and untouched: the right secret opens it.
    writeFileSync(secret, right);
    expect(await relics({ precious: true })).toBe('1');
    rmSync(secret);
    expect(await relics()).toBe('0');
  });
});
