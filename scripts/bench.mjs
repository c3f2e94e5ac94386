import { randomUUID } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import http from 'node:http';
import os from 'node:os';
import path from 'node:path';
import { build, bundle } from './lib/build.mjs';
import { ensurePackages, ensurePrograms, main, Plain, root, run, say } from './lib/machine.mjs';
import { withServer } from './lib/testServer.mjs';

/**
 * `npm run bench`: measures each speed beside its yardstick in the same run and writes the ratios, with the load of
 * the machine, to docs/benchmarks.md.
 */
const agent = new http.Agent({ keepAlive: true, maxSockets: 64 });

/** One request on a kept connection; gives status, body and cookies. */
function request(url, { method = 'GET', headers = {}, body } = {}) {
  return new Promise((resolve, reject) => {
    const sent = http.request(
      url,
      { method, headers: { ...headers, ...(body ? { 'content-length': Buffer.byteLength(body) } : {}) }, agent },
      (response) => {
        const pieces = [];
        response.on('data', (piece) => pieces.push(piece));
        response.on('end', () =>
          resolve({
            status: response.statusCode,
            body: Buffer.concat(pieces).toString(),
            cookies: response.headers['set-cookie'] ?? [],
          }),
        );
      },
    );
    sent.on('error', reject);
    sent.end(body);
  });
}

/** Requests a second by `clients` at once over `seconds`. */
async function rate(clients, seconds, one) {
  const until = Date.now() + seconds * 1000;
  let done = 0;
  await Promise.all(
    Array.from({ length: clients }, async (_, client) => {
      for (let i = 0; Date.now() < until; i += 1) {
        await one(client, i);
        done += 1;
      }
    }),
  );
  return done / seconds;
}

const median = (values) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];

async function durableCommands() {
  let result = null;
  await withServer({ name: 'bench', seed: true, careless: false }, async ({ url }) => {
    const origin = { origin: url, 'content-type': 'application/json' };
    const clients = 16;
    const signIn = await request(`${url}/do/door.enterAs`, {
      method: 'POST',
      headers: origin,
      body: JSON.stringify({ person: 'ines' }),
    });
    const cookie = signIn.cookies[0]?.split(';')[0];
    if (!cookie) throw new Plain('The measurement could not sign in.');
    const headers = { ...origin, cookie };
    const ask = async (name, input) =>
      JSON.parse(
        (await request(`${url}/ask/${name}?${new URLSearchParams({ input: JSON.stringify(input) })}`, { headers }))
          .body,
      ).value;
    const tell = async (name, input) => {
      const answer = await request(`${url}/do/${name}`, {
        method: 'POST',
        headers,
        body: JSON.stringify({ ...input, commandId: randomUUID() }),
      });
      if (answer.status !== 200) throw new Plain(`A measured command was refused: ${answer.body.slice(0, 300)}`);
    };
    // Many records for each client, so that no stream grows long and clients meet in the database, not on a stream.
    const each = 120;
    const targets = await Promise.all(
      Array.from({ length: clients }, async (_, client) => {
        const own = [];
        for (let i = 0; i < each; i += 1) {
          const made = await request(`${url}/do/record.create`, {
            method: 'POST',
            headers,
            body: JSON.stringify({
              title: `Bench ${client} ${i}`,
              kind: 'PRO',
              owner: 'ines',
              commandId: randomUUID(),
            }),
          });
          own.push(JSON.parse(made.body).value.record);
        }
        return own;
      }),
    );
    const list = await ask('register.list', {});
    if (list.length < clients * each) throw new Plain('The measurement did not make its records.');
    const measured = {
      durable: (client, i) =>
        tell('record.describe', {
          record: targets[client][i % each],
          title: `Bench ${client} ${i}`,
          kind: 'PRO',
          owner: 'ines',
        }),
      empty: async () => {
        const { status } = await request(`${url}/nothing`, { method: 'POST', headers, body: '{}' });
        if (status !== 204) throw new Plain(`The empty handler answered ${status}.`);
      },
      refused: async () => {
        const { status } = await request(`${url}/do/no.such`, { method: 'POST', headers, body: '{}' });
        if (status !== 404) throw new Plain(`The unknown operation answered ${status}.`);
      },
    };
    for (const one of Object.values(measured)) await rate(clients, 5, one);
    const rates = { durable: [], empty: [], refused: [] };
    // Short and in turn, so that a change of the machine's speed meets all of them.
    for (let round = 0; round < 20; round += 1)
      for (const [what, one] of Object.entries(measured)) rates[what].push(await rate(clients, 1, one));
    const beside = (yardstick) => median(rates.durable.map((value, i) => value / yardstick[i]));
    result = {
      durable: median(rates.durable),
      empty: median(rates.empty),
      refused: median(rates.refused),
      besideEmpty: beside(rates.empty),
      besideRefused: beside(rates.refused),
    };
  });
  return result;
}

await main(async () => {
  ensurePrograms('postgres');
  ensurePackages();
  await build();
  await bundle([path.join(root, 'test/bench/bench.ts')]);
  const load = os.loadavg();
  say('Folding events beside an actor ...');
  const folding = JSON.parse(
    run(process.execPath, [path.join(root, '.build/bench.mjs')], {
      quiet: true,
      minutes: 5,
      what: 'The folding bench',
    }),
  );
  say('Durable commands beside an empty handler ...');
  const commands = await durableCommands();
  const number = (value) => Math.round(value).toLocaleString('en-GB');
  const rows = [
    [
      'events folded, beside transitions of an xstate actor (same run)',
      `${number(folding.folded)} a second`,
      `${number(folding.actor)} a second`,
      `${folding.ratio.toFixed(1)} times`,
      '20 times',
    ],
    [
      'durable commands over HTTP at 16 clients, beside an empty handler of the same server',
      `${number(commands.durable)} a second`,
      `${number(commands.empty)} a second`,
      commands.besideEmpty.toFixed(2),
      '0.6',
    ],
    [
      'the same, beside a command that is refused before it asks the database anything',
      `${number(commands.durable)} a second`,
      `${number(commands.refused)} a second`,
      commands.besideRefused.toFixed(2),
      'none',
    ],
  ];
  for (const row of rows) say(row.join('  |  '));
  writeFileSync(
    path.join(root, 'docs/benchmarks.md'),
    `# Benchmarks\n\nWritten by \`npm run bench\`: each speed beside its yardstick in one run; the ratio counts, not the numbers.\n\nMachine: ${os.cpus().length} cores, ${os.cpus()[0]?.model.trim()}, Node ${process.version}; load before the run ${load.map((value) => value.toFixed(2)).join(', ')} (1, 5, 15 minutes); ${new Date().toISOString().slice(0, 10)}.\n\n| what | ours | yardstick | ratio | goal |\n|---|---|---|---|---|\n${rows.map((row) => `| ${row.join(' | ')} |`).join('\n')}\n\nThe durable command is \`record.describe\`: session, rights, input, command id, one event appended to its hash chain, the read table, one commit with fsync on. The empty handler is a route handler of the framework in the same server that reads nothing and answers 204. Operations are answered before the framework, in a thread of their own; what that way costs by itself is shown by the third row.\n`,
  );
  run(process.execPath, [path.join(root, 'node_modules/@biomejs/biome/bin/biome'), 'format', '--write', 'docs'], {
    quiet: true,
    what: 'The layout of docs/benchmarks.md',
  });
});
