import { readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { data, ensurePackages, main, Plain, root, run, say } from './lib/machine.mjs';

/**
 * `npm run mutate`: changes the engine in some four hundred places, drawn by a seed, and shows which changes no test
 * notices. Not part of `npm test`: it takes long. `npm run mutate -- 7` draws others; `-- 7 100` draws a hundred.
 */
const folders = ['src/core/circulation', 'src/core/route', 'src/core/access'];
/** A drawn place brings along every change within it; one with more than this is passed over. */
const mostWithin = 12;

function randomFrom(seed) {
  let state = seed >>> 0;
  // Mulberry32 (Tommy Ettinger): short, and the same everywhere.
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
}

/** Every change that could be made to the engine: file, and where it begins and ends. */
async function mutants() {
  const { Instrumenter } = await import('@stryker-mutator/instrumenter');
  const quiet = () => {};
  const log = { info: quiet, debug: quiet, warn: quiet, trace: quiet, error: quiet, isDebugEnabled: () => false };
  const files = folders.flatMap((folder) =>
    readdirSync(path.join(root, folder))
      .filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts'))
      .map((name) => path.join(root, folder, name)),
  );
  const result = await new Instrumenter(log).instrument(
    files.map((name) => ({ name, content: readFileSync(name, 'utf8'), mutate: true })),
    { excludedMutations: [], ignorers: [], plugins: null, noHeader: true },
  );
  return result.mutants.map(({ fileName, location }) => ({ file: path.relative(root, fileName), ...location }));
}

const before = (a, b) => a.line < b.line || (a.line === b.line && a.column <= b.column);
const within = (inner, outer) =>
  inner.file === outer.file && before(outer.start, inner.start) && before(inner.end, outer.end);

await main(async () => {
  await ensurePackages();
  const [seed = 1, wanted = 400] = process.argv.slice(2).map(Number);
  const all = await mutants();
  if (all.length < 1000) throw new Plain(`Only ${all.length} changes could be made; something is wrong.`);
  const random = randomFrom(seed);
  const order = all.map((mutant) => ({ mutant, at: random() })).sort((a, b) => a.at - b.at);
  const drawn = [];
  const covered = new Set();
  for (const { mutant } of order) {
    if (covered.size >= wanted) break;
    if (covered.has(mutant)) continue;
    const fresh = all.filter((other) => within(other, mutant) && !covered.has(other));
    if (fresh.length > mostWithin) continue;
    for (const one of fresh) covered.add(one);
    drawn.push(mutant);
  }
  say(`${covered.size} of ${all.length} changes, drawn with seed ${seed}.`);
  const folder = path.join(data, 'mutation');
  rmSync(folder, { recursive: true, force: true });
  const report = path.join(folder, 'report.json');
  const at = ({ file, start, end }) => `${file}:${start.line + 1}:${start.column}-${end.line + 1}:${end.column}`;
  const config = path.join(data, 'mutation.config.json');
  writeFileSync(
    config,
    JSON.stringify({
      mutate: drawn.map(at),
      testRunner: 'vitest',
      vitest: { configFile: 'vitest.mutate.config.ts' },
      plugins: ['@stryker-mutator/vitest-runner'],
      coverageAnalysis: 'perTest',
      ignoreStatic: true,
      concurrency: 2,
      timeoutMS: 20_000,
      reporters: ['progress-append-only', 'json'],
      jsonReporter: { fileName: report },
      tempDirName: path.join(folder, 'tmp'),
      ignorePatterns: ['.next', '.build', '.data', 'docs', 'public', 'db', 'src/app', 'src/ui', 'test/e2e'],
      allowConsoleColors: false,
    }),
  );
  await run(process.execPath, [path.join(root, 'node_modules/@stryker-mutator/core/bin/stryker.js'), 'run', config], {
    minutes: 120,
    what: 'The mutation test',
  });
  const { files } = JSON.parse(readFileSync(report, 'utf8'));
  const results = Object.entries(files).flatMap(([file, { mutants: own }]) =>
    own.map((mutant) => ({ file, ...mutant })),
  );
  const lived = results.filter(({ status }) => status === 'Survived' || status === 'NoCoverage');
  const killed = results.filter(({ status }) => status === 'Killed' || status === 'Timeout');
  for (const { file, location, mutatorName, replacement, status } of lived)
    say(
      `${status}: ${file}:${location.start.line}  ${mutatorName}  ${String(replacement).replace(/\s+/g, ' ').slice(0, 100)}`,
    );
  say(
    `${killed.length} of ${killed.length + lived.length} were noticed (${((100 * killed.length) / (killed.length + lived.length)).toFixed(1)} %).`,
  );
});
