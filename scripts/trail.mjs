import { existsSync } from 'node:fs';
import path from 'node:path';
import { bundle } from './lib/build.mjs';
import { ensureDatabase, keptSecret, startCluster } from './lib/cluster.mjs';
import { data, main, Plain, root } from './lib/machine.mjs';
import { runEntry } from './lib/serve.mjs';

/** `npm run trail -- NUMBER`: checks the hash chain of a circulation or a record, in the demo or the installation. */
await main(async () => {
  const number = process.argv[2];
  if (!number) throw new Plain('Say which: npm run trail -- C-12, or npm run trail -- MR-PRO-019');
  if (!existsSync(path.join(root, '.build', 'trail.mjs'))) await bundle();
  const name = process.env.DATABASE_URL ? null : existsSync(path.join(data, 'demo.secret')) ? 'demo' : 'cluster';
  if (name && !existsSync(path.join(data, `${name}.secret`)))
    throw new Plain('There is no database yet. Start the demo or the installation first.');
  const cluster = name
    ? await startCluster({ name, firstPort: name === 'demo' ? 54_310 : 54_210, precious: true })
    : null;
  try {
    await runEntry(
      'trail',
      {
        AVENDA_MODE: name === 'demo' ? 'demo' : 'real',
        AVENDA_SECRET: process.env.AVENDA_SECRET ?? keptSecret('avenda'),
        AVENDA_URL: process.env.AVENDA_URL ?? 'http://localhost',
        DATABASE_URL: process.env.DATABASE_URL ?? ensureDatabase(cluster, 'avenda'),
      },
      [number],
    );
  } finally {
    cluster?.stop();
  }
});
