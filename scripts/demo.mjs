import { rmSync } from 'node:fs';
import path from 'node:path';
import { build } from './lib/build.mjs';
import { ensureDatabase, freePort, keptSecret, startCluster } from './lib/cluster.mjs';
import {
  data,
  ensureDisk,
  ensurePackages,
  ensurePrograms,
  main,
  root,
  say,
  stepper,
  stopSignal,
} from './lib/machine.mjs';
import {
  forgetRunning,
  keepRunning,
  notePart,
  noteRunning,
  refuseSecondStart,
  runBeside,
  runEntry,
  untilStopped,
} from './lib/serve.mjs';

/** `npm run demo`: everything from a bare machine to the demonstration organization in the browser. */
await main(async () => {
  const fresh = process.argv.includes('--fresh');
  await refuseSecondStart();
  noteRunning({});
  const stopped = stopSignal();
  const step = stepper(6);
  let cluster = null;
  let running = null;
  let history = null;
  try {
    step('programs and packages');
    ensureDisk(root, 1500);
    await ensurePrograms('postgres');
    await ensurePackages();
    step('pages and processes');
    await build();
    step('the database');
    cluster = await startCluster({ name: 'demo', firstPort: 54_310, alone: true });
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
    await runEntry('migrate', env);
    step('the demonstration organization');
    await runEntry('seed', env);
    step('post room, worker and pages');
    running = await keepRunning(['postroom', 'worker', 'server'], env, { note: notePart, stopped });
    step(`ready: ${url}`);
    noteRunning({ url });
    say(
      `\nThe demonstration organization is Marrowfell Ropeway; choose a person on the first page.\nIts history is laid out while you look. Ctrl+C ends everything. Data are kept; "npm run demo -- --fresh" begins anew.\n`,
    );
    history = runBeside('history', env);
    notePart(history.pid);
    await untilStopped(stopped);
  } finally {
    await Promise.all([running?.end(), history?.end()]);
    cluster?.stop();
    forgetRunning();
  }
});
