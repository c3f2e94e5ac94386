import { rmSync } from 'node:fs';
import path from 'node:path';
import { ensureDatabase, freePort, startCluster } from './cluster.mjs';
import { data, say } from './machine.mjs';
import { endAll, runEntry, startEntry } from './serve.mjs';

/** Runs `work` with the built application serving on loopback over a database of its own, and ends everything after. */
export async function withServer({ name, seed, careless = true }, work) {
  const cluster = await startCluster({
    name: careless ? 'test' : 'bench',
    firstPort: careless ? 54_410 : 54_510,
    careless,
  });
  const children = [];
  try {
    cluster.query('postgres', `drop database if exists avenda_${name} with (force)`);
    const post = path.join(data, `post-${name}`);
    rmSync(post, { recursive: true, force: true });
    const port = await freePort(3400);
    const mailPort = await freePort(54_825);
    const url = `http://localhost:${port}`;
    const env = {
      AVENDA_MODE: 'demo',
      AVENDA_SECRET: 'the secret of the end-to-end tests, 32+ characters',
      AVENDA_URL: url,
      DATABASE_URL: ensureDatabase(cluster, `avenda_${name}`),
      SMTP_URL: `smtp://127.0.0.1:${mailPort}`,
      AVENDA_POST: post,
      AVENDA_POST_PORT: String(mailPort),
      AVENDA_LOG: 'warn',
      AVENDA_LEASE_SECONDS: '6',
      AVENDA_PAST: '24',
      PORT: String(port),
      HOST: '127.0.0.1',
    };
    say(`Starting Avenda for ${name} on ${url} ...`);
    await runEntry('migrate', env);
    if (seed) for (const entry of ['seed', 'history']) await runEntry(entry, env);
    children.push(await startEntry('postroom', env));
    children.push(await startEntry('worker', env));
    children.push(await startEntry('server', env));
    const restart = async (part) => {
      const child = await startEntry(part, env);
      children.push(child);
      return child;
    };
    await work({ url, env, children, restart, cluster });
  } finally {
    await endAll(children);
    cluster.stop();
  }
}
