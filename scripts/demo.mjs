import { rmSync } from 'node:fs';
import path from 'node:path';
import { build } from './lib/build.mjs';
import { ensureDatabase, freePort, keptSecret, startCluster } from './lib/cluster.mjs';
import { data, ensureDisk, ensurePackages, ensurePrograms, main, root, say } from './lib/machine.mjs';
import { forgetRunning, keepRunning, noteRunning, refuseSecondStart, runEntry, untilStopped } from './lib/serve.mjs';

/** `npm run demo`: everything from a bare machine to the demonstration organization in the browser. */
await main(async () => {
  const fresh = process.argv.includes('--fresh');
  refuseSecondStart();
  noteRunning(null);
  ensureDisk(root, 1500);
  ensurePrograms('postgres');
  ensurePackages();
  await build();
  const cluster = await startCluster({ name: 'demo', firstPort: 54_310 });
  let running = null;
  const close = async () => {
    await running?.end();
    cluster.stop();
    forgetRunning();
  };
  try {
    if (fresh) {
      cluster.query('postgres', 'drop database if exists avenda with (force)');
      rmSync(path.join(data, 'post'), { recursive: true, force: true });
    }
    const port = await freePort(Number(process.env.PORT ?? 3000));
    const mailPort = await freePort(54_725);
    const url = `http://localhost:${port}`;
    const env = {
      AVENDA_MODE: 'demo',
      AVENDA_SECRET: keptSecret('avenda'),
      AVENDA_URL: url,
      DATABASE_URL: ensureDatabase(cluster, 'avenda'),
      SMTP_URL: `smtp://127.0.0.1:${mailPort}`,
      AVENDA_POST: path.join(data, 'post'),
      AVENDA_POST_PORT: String(mailPort),
      PORT: String(port),
      HOST: '127.0.0.1',
    };
    runEntry('migrate', env);
    runEntry('seed', env);
    running = await keepRunning(['postroom', 'worker', 'server'], env);
    noteRunning(url);
    say(
      `\nAvenda is ready: ${url}\nThe demonstration organization is Marrowfell Ropeway; choose a person on the first page.\nCtrl+C ends everything. Data are kept; "npm run demo -- --fresh" begins anew.`,
    );
    await untilStopped(close);
  } catch (error) {
    await close();
    throw error;
  }
});
