import { build } from './lib/build.mjs';
import { ensureDatabase, freePort, keptSecret, startCluster } from './lib/cluster.mjs';
import {
  ensureDisk,
  ensurePackages,
  ensurePrograms,
  main,
  Plain,
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
  runEntry,
  untilStopped,
} from './lib/serve.mjs';

/** `npm start`: a real installation, with a cluster of its own unless DATABASE_URL is set. */
await main(async () => {
  await refuseSecondStart();
  if (process.env.AVENDA_MODE === 'demo') throw new Plain('The demonstration is started with "npm run demo".');
  const own = !process.env.DATABASE_URL;
  if (!own && !process.env.AVENDA_SECRET)
    throw new Plain(
      'AVENDA_SECRET is missing. Set it to at least 32 random characters and keep it: links and sessions depend on it. For example: openssl rand -hex 32',
    );
  noteRunning({});
  const stopped = stopSignal();
  const step = stepper(own ? 5 : 4);
  let cluster = null;
  let running = null;
  try {
    step('programs and packages');
    ensureDisk(root, 1500);
    await ensurePackages();
    if (own) await ensurePrograms('postgres');
    step('pages and processes');
    await build();
    if (own) {
      step('the database');
      cluster = await startCluster({ name: 'cluster', firstPort: 54_210, precious: true, alone: true });
    }
    const port = process.env.PORT ? Number(process.env.PORT) : await freePort(3000);
    const host = process.env.HOST ?? '127.0.0.1';
    const url = process.env.AVENDA_URL ?? `http://localhost:${port}`;
    const env = {
      AVENDA_MODE: 'real',
      AVENDA_SECRET: process.env.AVENDA_SECRET ?? keptSecret('avenda'),
      AVENDA_URL: url,
      DATABASE_URL: process.env.DATABASE_URL ?? ensureDatabase(cluster, 'avenda'),
      PORT: String(port),
      HOST: host,
    };
    await runEntry('migrate', env);
    step('worker and pages');
    running = await keepRunning(['worker', 'server'], env, { note: notePart, stopped });
    step(`ready: ${url}`);
    noteRunning({ url });
    if (!process.env.SMTP_URL) say('SMTP_URL is not set: mail is kept queued until it is.');
    say('Ctrl+C ends everything.');
    await untilStopped(stopped);
  } finally {
    await running?.end();
    cluster?.stop();
    forgetRunning();
  }
});
