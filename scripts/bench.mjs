import { spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import http from 'node:http';
import os from 'node:os';
import path from 'node:path';
import { build, bundle } from './lib/build.mjs';
import { ensureDatabase, freePort, startCluster } from './lib/cluster.mjs';
import { ensurePackages, ensurePrograms, main, Plain, root, run, say } from './lib/machine.mjs';
import { runEntry } from './lib/serve.mjs';
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

/** The small application beside which a durable command is measured, built and served by the framework itself. */
async function startBare(env) {
  const next = path.join(root, 'node_modules/next/dist/bin/next');
  const folder = path.join(root, 'test/bench/bare');
  await run(process.execPath, [next, 'build', folder], {
    quiet: true,
    minutes: 10,
    what: 'The build of the bare handler',
  });
  const port = await freePort(3600);
  const child = spawn(process.execPath, [next, 'start', folder, '-p', String(port), '-H', '127.0.0.1'], {
    env: { ...process.env, DATABASE_URL: env.DATABASE_URL, NODE_ENV: 'production', NEXT_TELEMETRY_DISABLED: '1' },
    stdio: 'ignore',
  });
  const url = `http://localhost:${port}`;
  for (let i = 0; i < 100; i += 1) {
    const answer = await request(`${url}/do`, { method: 'POST', body: '{}' }).catch(() => null);
    if (answer) return { child, url };
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  child.kill('SIGTERM');
  throw new Plain('The bare handler did not start.');
}

/** What one program measures beside a database of its own, in a process of its own. */
async function measured(name, what) {
  const cluster = await startCluster({ name: 'bench', firstPort: 54_510 });
  try {
    cluster.query('postgres', `drop database if exists avenda_${name} with (force)`);
    const env = {
      AVENDA_MODE: 'demo',
      AVENDA_SECRET: 'the secret of the measurements, 32+ characters',
      AVENDA_URL: 'http://localhost:3999',
      DATABASE_URL: ensureDatabase(cluster, `avenda_${name}`),
      AVENDA_LOG: 'warn',
    };
    await runEntry('migrate', env);
    cluster.query('postgres', 'grant pg_checkpoint to avenda_owner');
    return JSON.parse(
      await run(process.execPath, [path.join(root, `.build/${name}.mjs`)], {
        quiet: true,
        minutes: 15,
        env,
        what,
      }),
    );
  } finally {
    cluster.stop();
  }
}

async function durableCommands() {
  let result = null;
  await withServer({ name: 'bench', seed: true, careless: false }, async ({ url, env, cluster }) => {
    cluster.query(
      'avenda_bench',
      'create table bare_event (id text primary key, data text); create table bare_row (id text primary key, title text); grant all on bare_event, bare_row to public',
    );
    const bare = await startBare(env);
    const bareUrl = bare.url;
    try {
      const origin = { origin: url, 'content-type': 'application/json' };
      const clients = 16;
      const signIn = await request(`${url}/do/auth.enterAs`, {
        method: 'POST',
        headers: origin,
        body: JSON.stringify({ person: 'ines' }),
      });
      const cookie = signIn.cookies[0]?.split(';')[0];
      if (!cookie) throw new Plain('The measurement could not sign in.');
      const headers = { ...origin, cookie };
      const ask = async (name, input) =>
        JSON.parse((await request(`${url}/ask/${name}`, { method: 'POST', headers, body: JSON.stringify(input) })).body)
          .value;
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
                documentType: 'PRO',
                owner: 'ines',
                commandId: randomUUID(),
              }),
            });
            own.push(JSON.parse(made.body).value.record);
          }
          return own;
        }),
      );
      const first = await ask('register.list', { filter: 'bench' });
      if (first.count < Math.min(1001, clients * each)) throw new Plain('The measurement did not make its records.');
      const measured = {
        durable: (client, i) =>
          tell('record.describe', {
            record: targets[client][i % each],
            title: `Bench ${client} ${i}`,
            documentType: 'PRO',
            owner: 'ines',
          }),
        bare: async (client, i) => {
          const body = JSON.stringify({
            record: targets[client][i % each],
            title: `Bench ${client} ${i}`,
            documentType: 'PRO',
            owner: 'ines',
            commandId: randomUUID(),
          });
          const { status } = await request(`${bareUrl}/do`, { method: 'POST', headers, body });
          if (status !== 200) throw new Plain(`The bare handler answered ${status}.`);
        },
        refused: async () => {
          const { status } = await request(`${url}/do/no.such`, { method: 'POST', headers, body: '{}' });
          if (status !== 404) throw new Plain(`The unknown operation answered ${status}.`);
        },
      };
      for (const one of Object.values(measured)) await rate(clients, 5, one);
      const rates = { durable: [], bare: [], refused: [] };
      // Short and in turn, so that a change of the machine's speed meets all of them.
      for (let round = 0; round < 20; round += 1)
        for (const [what, one] of Object.entries(measured)) rates[what].push(await rate(clients, 1, one));
      const beside = (yardstick) => median(rates.durable.map((value, i) => value / yardstick[i]));
      result = {
        durable: median(rates.durable),
        bare: median(rates.bare),
        refused: median(rates.refused),
        besideBare: beside(rates.bare),
        besideRefused: beside(rates.refused),
      };
    } finally {
      bare.child.kill('SIGTERM');
    }
  });
  return result;
}

/** What typing costs in the planner with a route of 200 seats: the longest task of the page's main thread, in Chromium. */
async function keystrokes() {
  const { chromium } = await import('@playwright/test');
  let result = null;
  await withServer({ name: 'benchkeys', seed: true, careless: false }, async ({ url }) => {
    const browser = await chromium.launch({
      executablePath: '/usr/bin/chromium-headless-shell',
      args: ['--no-sandbox', '--disable-gpu', '--disable-dev-shm-usage'],
    });
    try {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, locale: 'en-GB' });
      await page.goto(url);
      await page.getByRole('button', { name: 'Enter as Ines Halloran' }).click();
      await page.waitForURL(/\/desk/);
      const put = async (name, input) => {
        const answer = await page.request.post(`${url}/do/${name}`, {
          data: { ...input, commandId: randomUUID() },
          headers: { origin: url },
        });
        const body = await answer.json();
        if (!body.ok) throw new Plain(`A measured command was refused: ${JSON.stringify(body).slice(0, 300)}`);
        return body.value;
      };
      const { record } = await put('record.create', { title: 'Long route', documentType: 'AGR', owner: 'dalia' });
      const { circulation } = await put('change.start', { records: [record], reason: 'Measured', author: 'dalia' });
      const people = ['petra', 'oskar', 'yuki', 'noor', 'caspian', 'fenna', 'benedikt', 'rufus'];
      const stage = (n) => ({
        kind: 'stage',
        id: `g${n}`,
        verb: 'review',
        seats: people.map((person, i) => ({
          id: `s${n}-${i}`,
          assignment: { kind: 'person', person },
          files: 'all',
          pages: [],
          facts: [],
          due: null,
          closes: null,
        })),
        order: 'together',
        rule: { kind: 'all' },
        due: { kind: 'after', amount: 3, unit: 'workingDays' },
        closes: null,
        earliest: null,
        condition: null,
        onReturn: 'atOnce',
        onDecline: 'stop',
        independentOf: [],
        allows: { comment: true, delegate: 'freely', print: 'asked', download: 'asked', changes: false },
      });
      const branches = Array.from({ length: 8 }, (_, b) => ({
        name: `Branch ${b + 1}`,
        condition: null,
        route: { kind: 'series', id: `b${b}`, parts: [stage(3 * b), stage(3 * b + 1), stage(3 * b + 2)] },
      }));
      const parts = [{ kind: 'parallel', id: 'p', name: '', join: { kind: 'all' }, branches }, stage(99)];
      await put('circulation.plan', {
        circulation,
        route: { kind: 'series', id: 'root', parts },
        note: null,
        basis: null,
      });
      await page.goto(`${url}/circulations/${circulation}/plan`);
      await page.getByText('Saved', { exact: true }).waitFor();
      await page.waitForTimeout(1500);
      await page.evaluate(() => {
        window.long = [];
        new PerformanceObserver((list) => {
          for (const entry of list.getEntries()) window.long.push(entry.duration);
        }).observe({ type: 'longtask' });
      });
      await page.getByRole('button', { name: 'Branch 1' }).first().click();
      const name = page.getByLabel('Name of the branch');
      await name.waitFor();
      await page.waitForTimeout(500);
      await page.evaluate(() => {
        window.long.length = 0;
      });
      await name.press('End');
      for (const key of ' of the contracts, with the price list and the annex') {
        await page.keyboard.press(key);
        await page.waitForTimeout(60);
      }
      await page.waitForTimeout(500);
      if (!(await name.inputValue()).endsWith('the annex')) throw new Plain('What was typed did not arrive.');
      const long = await page.evaluate(() => window.long);
      result = { count: long.length, longest: Math.max(0, ...long) };
    } finally {
      await browser.close();
    }
  });
  return result;
}

/** Seconds of processor that a process has used so far, its own and the kernel's for it. */
function processorOf(pid) {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ');
  return (Number(fields[11]) + Number(fields[12])) / 100;
}

/**
 * What a page of a list costs until its first row is painted, in Chromium with an empty cache and with a full one, and the
 * server's processor time for it, beside a bare page of the framework with twenty rows and no library.
 */
async function firstRows() {
  const { chromium } = await import('@playwright/test');
  let result = null;
  await withServer({ name: 'benchpages', seed: true, careless: false }, async ({ url, env, children, cluster }) => {
    cluster.query(
      'avenda_benchpages',
      `create table bare_row (id text primary key, title text); grant all on bare_row to public;
       insert into bare_row select 'row-' || n, 'Haul rope supply agreement ' || n from generate_series(1, 20) as n`,
    );
    const bare = await startBare(env);
    const browser = await chromium.launch({
      executablePath: '/usr/bin/chromium-headless-shell',
      args: ['--no-sandbox', '--disable-gpu', '--disable-dev-shm-usage'],
    });
    try {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, locale: 'en-GB' });
      const door = await context.newPage();
      await door.goto(url);
      await door.getByRole('button', { name: 'Enter as Ines Halloran' }).click();
      await door.waitForURL(/\/desk/);
      const cookie = (await context.cookies(url)).map(({ name, value }) => `${name}=${value}`).join('; ');
      await door.close();
      const server = children[children.length - 1];
      const pages = [
        { what: 'a bare page', address: `${bare.url}/rows`, pid: bare.child.pid },
        ...['desk', 'circulations', 'register', 'people'].map((name) => ({
          what: name,
          address: `${url}/${name}`,
          pid: server.pid,
        })),
      ];
      for (const page of pages) Object.assign(page, { painted: [], again: [], bytes: 0, requests: 0 });
      for (let round = 0; round < 15; round += 1)
        for (const page of pages)
          for (const cold of [true, false]) {
            const tab = await context.newPage();
            const session = await context.newCDPSession(tab);
            await session.send('Network.enable');
            await session.send('Network.setCacheDisabled', { cacheDisabled: cold });
            const seen = { bytes: 0, requests: 0 };
            session.on('Network.requestWillBeSent', () => {
              seen.requests += 1;
            });
            session.on('Network.loadingFinished', ({ encodedDataLength }) => {
              seen.bytes += encodedDataLength;
            });
            await tab.addInitScript(() => {
              new MutationObserver((_, observer) => {
                if (!document.querySelector('[data-row]')) return;
                observer.disconnect();
                window.there = performance.now();
              }).observe(document, { childList: true, subtree: true });
            });
            await tab.goto(page.address, { waitUntil: 'commit' });
            // The first paint of anything, where the rows were there by then.
            await tab.waitForFunction(() => window.there && performance.getEntriesByName('first-contentful-paint')[0]);
            const painted = await tab.evaluate(() =>
              Math.max(window.there, performance.getEntriesByName('first-contentful-paint')[0].startTime),
            );
            page[cold ? 'painted' : 'again'].push(painted);
            if (cold && round === 0) Object.assign(page, seen);
            await tab.waitForLoadState('networkidle');
            await tab.close();
          }
      for (const page of pages) {
        const count = 100;
        const get = () => request(page.address, { headers: { cookie, 'sec-fetch-dest': 'document' } });
        for (let i = 0; i < 30; i += 1) await get();
        const before = processorOf(page.pid);
        for (let i = 0; i < count; i += 1) await get();
        page.processor = ((processorOf(page.pid) - before) / count) * 1000;
      }
      const [yardstick, ...own] = pages;
      result = own.map((page) => ({
        ...page,
        painted: median(page.painted),
        again: median(page.again),
        beside: median(page.painted.map((value, i) => value / yardstick.painted[i])),
        besideAgain: median(page.again.map((value, i) => value / yardstick.again[i])),
        yardstick: {
          painted: median(yardstick.painted),
          again: median(yardstick.again),
          processor: yardstick.processor,
          bytes: yardstick.bytes,
          requests: yardstick.requests,
        },
      }));
    } finally {
      await browser.close();
      bare.child.kill('SIGTERM');
    }
  });
  return result;
}

await main(async () => {
  await ensurePrograms('postgres', 'chromium');
  await ensurePackages();
  await build();
  await bundle(
    ['bench', 'forecasting', 'lists', 'planning', 'timers'].map((name) => path.join(root, `test/bench/${name}.ts`)),
  );
  const load = os.loadavg();
  say('Folding events beside an actor ...');
  const folding = JSON.parse(
    await run(process.execPath, [path.join(root, '.build/bench.mjs')], {
      quiet: true,
      minutes: 5,
      what: 'The folding bench',
    }),
  );
  say('Planning: checks, layout and working time ...');
  const planning = JSON.parse(
    await run(process.execPath, [path.join(root, '.build/planning.mjs')], {
      quiet: true,
      minutes: 5,
      what: 'The planning bench',
    }),
  );
  say('Forecasting ...');
  const forecasting = JSON.parse(
    await run(process.execPath, [path.join(root, '.build/forecasting.mjs')], {
      quiet: true,
      minutes: 5,
      what: 'The forecasting bench',
    }),
  );
  say('Typing in the planner with 200 seats ...');
  const keys = await keystrokes();
  say('First rows in Chromium beside a bare page ...');
  const first = await firstRows();
  say('Lists beside their bare SQL ...');
  const pages = await measured('lists', 'The measurement of lists');
  say('10,000 timers due in one minute ...');
  const timers = await measured('timers', 'The measurement of timers');
  say('Durable commands beside a bare route handler ...');
  const commands = await durableCommands();
  const number = (value) => Math.round(value).toLocaleString('en-GB');
  const rows = [
    [
      'events folded, beside transitions of an xstate actor (same run)',
      `${number(folding.folded)} a second`,
      `${number(folding.actor)} a second`,
      `${folding.ratio.toFixed(1)} times`,
      '50 times',
    ],
    [
      'one event more in a stream of 100,000, beside one in a stream of 10,000 (linear is 1)',
      `${((folding.long / 100_000) * 1e6).toFixed(2)} µs`,
      `${((folding.short / 10_000) * 1e6).toFixed(2)} µs`,
      (folding.long / 10 / folding.short).toFixed(2),
      'linear',
    ],
    [
      'durable commands over HTTP at 16 clients, beside a bare route handler with two inserts in one transaction',
      `${number(commands.durable)} a second`,
      `${number(commands.bare)} a second`,
      commands.besideBare.toFixed(2),
      '0.6',
    ],
    [
      'the same, beside a command that is refused before it asks the database anything',
      `${number(commands.durable)} a second`,
      `${number(commands.refused)} a second`,
      commands.besideRefused.toFixed(2),
      'none',
    ],
    [
      'working days added on a calendar with holidays, beside luxon stepping day by day over the same',
      `${number(planning.working.ours)} a second`,
      `${number(planning.working.theirs)} a second`,
      `${planning.working.ratio.toFixed(1)} times`,
      '50 times',
    ],
    [
      'a keystroke in the planner with 200 seats: checks, model and layout, beside the longest a page may be busy unnoticed',
      `${planning.keystroke.toFixed(1)} ms`,
      '50 ms',
      (planning.keystroke / 50).toFixed(2),
      'at most 1',
    ],
    [
      `the same in Chromium with drawing: the longest task while 52 letters were typed (tasks over 50 ms: ${keys.count})`,
      keys.longest === 0 ? 'under 50 ms' : `${number(keys.longest)} ms`,
      '50 ms',
      keys.longest === 0 ? 'under 1' : (keys.longest / 50).toFixed(2),
      'at most 1',
    ],
    [
      'a forecast of 10,000 runs over 40 seats (branches, one by one, k of n, rework), of one core',
      `${forecasting.seconds.toFixed(3)} s`,
      '0.25 s',
      (forecasting.seconds / 0.25).toFixed(2),
      'at most 1',
    ],
    [
      `${number(timers.due)} seats that close in one minute, ${number(timers.waiting)} timers waiting for other days`,
      `${number(timers.due / timers.seconds)} a second`,
      '1,000 a second',
      (timers.due / timers.seconds / 1000).toFixed(2),
      'at least 1',
    ],
    ...first.flatMap((page) => [
      [
        `${page.what} in Chromium, from the request to its first row painted, nothing kept (${number(page.bytes / 1024)} kB in ${page.requests} requests), beside a bare page of the framework with twenty rows (${number(page.yardstick.bytes / 1024)} kB in ${page.yardstick.requests})`,
        `${number(page.painted)} ms`,
        `${number(page.yardstick.painted)} ms`,
        `${page.beside.toFixed(2)} times`,
        'at most 2',
      ],
      [
        'the same, come again',
        `${number(page.again)} ms`,
        `${number(page.yardstick.again)} ms`,
        `${page.besideAgain.toFixed(2)} times`,
        'at most 2',
      ],
      [
        `${page.what}: processor time of the server for the page with its first answers`,
        `${page.processor.toFixed(1)} ms`,
        `${page.yardstick.processor.toFixed(1)} ms`,
        `${(page.processor / page.yardstick.processor).toFixed(2)} times`,
        'none',
      ],
    ]),
    ...pages
      .filter((page) => page.what.startsWith('a filter'))
      .map((page) => {
        const first = pages.find((one) => one.list === page.list && one.what === 'the first page');
        return [
          `${page.list}, ${page.what}, beside its first page`,
          `${page.ours.toFixed(1)} ms`,
          `${first.ours.toFixed(1)} ms`,
          `${(page.ours / first.ours).toFixed(1)} times`,
          'at most 10',
        ];
      }),
    ...pages
      .filter((page) => !page.what.startsWith('a filter'))
      .map((page) => [
        `${page.list}, ${page.what}: ${page.rows} rows, ${page.kilobytes.toFixed(0)} kB`,
        `${page.ours.toFixed(1)} ms`,
        `${page.theirs.toFixed(1)} ms`,
        `${page.ratio.toFixed(2)} times`,
        'at most 3, 100 kB',
      ]),
  ];
  for (const row of rows) say(row.join('  |  '));
  writeFileSync(
    path.join(root, 'docs/benchmarks.md'),
    `# Benchmarks\n\nWritten by \`npm run bench\`: each speed beside its yardstick in one run; the ratio counts, not the numbers.\n\nMachine: ${os.cpus().length} cores, ${os.cpus()[0]?.model.trim()}, Node ${process.version}; load before the run ${load.map((value) => value.toFixed(2)).join(', ')} (1, 5, 15 minutes); ${new Date().toISOString().slice(0, 10)}.\n\n| what | ours | yardstick | ratio | goal |\n|---|---|---|---|---|\n${rows.map((row) => `| ${row.join(' | ')} |`).join('\n')}\n\nThe durable command is \`record.describe\`: session, rights, input, command id, one event appended to its hash chain, the read table, one commit with fsync on. The bare handler (test/bench/bare) is a route handler of the same framework that reads the same body and cookie and makes two inserts in one transaction through the same driver, in a process of its own beside the same database. Lists: one organization with 100,000 tasks of one person, 20,000 circulations and 200,000 records; ours is the whole operation (session, rights, input, rows, counts, in process), the yardstick the same rows and counts in one transaction of the same role under the same row security.\n`,
  );
  await run(process.execPath, [path.join(root, 'node_modules/@biomejs/biome/bin/biome'), 'format', '--write', 'docs'], {
    quiet: true,
    what: 'The layout of docs/benchmarks.md',
  });
});
