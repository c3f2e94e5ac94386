import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { build } from './lib/build.mjs';
import { data, ensureDisk, ensurePackages, ensurePrograms, main, Plain, root, say } from './lib/machine.mjs';
import { withServer } from './lib/testServer.mjs';

/**
 * `npm test`: does its own set-up, then lint, types, import rules, unit, property, integration and end-to-end tests,
 * and ends with how many passed and failed. A name after it runs only that part: npm test -- core
 */
const wanted = new Set(process.argv.slice(2));
const results = path.join(data, 'results');
let passed = 0;
/** What failed, by name, for the closing lines. */
const failed = [];

/** Runs a step with its output shown; nothing is cut off before its minutes are over. */
function step(name, args, { minutes = 10, env = {} } = {}) {
  return new Promise((resolve) => {
    say(`\n=== ${name}`);
    const began = Date.now();
    const child = spawn(process.execPath, args, {
      cwd: root,
      env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', ...env },
      stdio: ['ignore', 'inherit', 'inherit'],
    });
    const late = setTimeout(() => {
      say(`${name} took longer than ${minutes} minutes and was ended.`);
      child.kill('SIGKILL');
    }, minutes * 60_000);
    child.on('exit', (code) => {
      clearTimeout(late);
      say(`--- ${name}: ${code === 0 ? 'fine' : `exit code ${code}`}, ${Math.round((Date.now() - began) / 1000)} s`);
      resolve(code === 0);
    });
  });
}

async function check(name, args) {
  if (await step(name, args)) passed += 1;
  else failed.push(name);
}

/** Reads what a runner says it ran, with the names of what failed; a runner that failed without a failed test counts as one. */
function count(name, file, fine, read) {
  const { good, bad } = existsSync(file) ? read(JSON.parse(readFileSync(file, 'utf8'))) : { good: 0, bad: [] };
  passed += good;
  failed.push(...bad.map((test) => `${name}: ${test}`));
  if (bad.length === 0 && (!fine || good === 0)) failed.push(`${name} as a whole`);
}

const bin = (name) => path.join(root, 'node_modules', name);

async function vitest(name, config, minutes) {
  const file = path.join(results, `${name}.json`);
  const fine = await step(
    name,
    [
      bin('vitest/vitest.mjs'),
      'run',
      '--config',
      config,
      '--reporter=default',
      '--reporter=json',
      `--outputFile.json=${file}`,
    ],
    { minutes },
  );
  count(name, file, fine, ({ numPassedTests, testResults }) => ({
    good: numPassedTests,
    bad: testResults.flatMap(({ name: test, status, assertionResults }) => {
      const names = assertionResults.filter((one) => one.status !== 'passed').map(({ fullName }) => fullName);
      return (names.length === 0 && status === 'failed' ? ['as a whole'] : names).map(
        (one) => `${path.relative(root, test)}: ${one}`,
      );
    }),
  }));
}

async function endToEnd() {
  await withServer({ name: 'e2e', seed: true }, async ({ url, env }) => {
    const file = path.join(results, 'e2e.json');
    const fine = await step('end to end', [bin('@playwright/test/cli.js'), 'test'], {
      minutes: 40,
      env: { ...env, E2E_URL: url, PLAYWRIGHT_JSON_OUTPUT_NAME: file },
    });
    count('end to end', file, fine, ({ stats, suites, errors }) => ({
      good: stats.expected,
      bad: [
        ...suites.flatMap(({ file: of, specs }) =>
          specs
            .filter((spec) => spec.tests.some(({ status }) => status !== 'expected'))
            .map((spec) => `${of}: ${spec.title}`),
        ),
        ...errors.map(({ message }) => message.split('\n')[0]),
      ],
    }));
  });
}

const parts = {
  lint: () => check('lint', [bin('@biomejs/biome/bin/biome'), 'check', '.']),
  types: () => check('types', [bin('typescript/bin/tsc'), '--noEmit']),
  imports: () => check('imports', ['scripts/imports.mjs']),
  core: () => vitest('core', 'vitest.core.config.ts', 25),
  integration: () => vitest('integration', 'vitest.integration.config.ts', 25),
  e2e: endToEnd,
};

await main(async () => {
  for (const name of wanted)
    if (!(name in parts)) throw new Plain(`There is no part ${name}; there are ${Object.keys(parts).join(', ')}.`);
  ensureDisk(root, 2000);
  await ensurePrograms('postgres', 'chromium', 'qpdf', 'poppler', 'shaper');
  await ensurePackages();
  // Each day the properties draw others; whoever wants those of a day again says so.
  process.env.AVENDA_SEED ??= String(Math.floor(Date.now() / 86_400_000));
  say(`Properties draw from AVENDA_SEED=${process.env.AVENDA_SEED}.`);
  rmSync(results, { recursive: true, force: true });
  mkdirSync(results, { recursive: true });
  await build();
  for (const [name, run] of Object.entries(parts)) if (wanted.size === 0 || wanted.has(name)) await run();
  say(`\n${passed} passed, ${failed.length} failed`);
  for (const what of failed) say(`  failed: ${what}`);
  if (failed.length > 0) process.exitCode = 1;
});
