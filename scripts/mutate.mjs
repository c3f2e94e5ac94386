import { readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { changeOf } from './lib/drawn.mjs';
import { data, ensurePackages, main, Plain, root, run, say } from './lib/machine.mjs';

/**
 * `npm run mutate`: changes the core in three hundred places, drawn by a seed from all that could be changed, and shows
 * which changes no test notices. Not part of `npm test`: it takes long. `npm run mutate -- 7` draws others; `-- 7 100` draws
 * a hundred.
 */

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

/** What could be changed: in which file, from where to where, how, and what would stand there. */
async function changes() {
  const { Instrumenter } = await import('@stryker-mutator/instrumenter');
  const quiet = () => {};
  const log = { info: quiet, debug: quiet, warn: quiet, trace: quiet, error: quiet, isDebugEnabled: () => false };
  const files = readdirSync(path.join(root, 'src/core'), { recursive: true })
    .filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts'))
    .sort()
    .map((name) => path.join(root, 'src/core', name));
  const result = await new Instrumenter(log).instrument(
    files.map((name) => ({ name, content: readFileSync(name, 'utf8'), mutate: true })),
    { excludedMutations: [], ignorers: [], plugins: null, noHeader: true },
  );
  return result.mutants.map((mutant) => ({
    ...mutant,
    file: path.relative(root, mutant.fileName),
    name: changeOf(mutant),
  }));
}

/** A change as the report has it, which counts lines and columns from one. */
const inPlace = (file, { location: { start, end }, ...mutant }) => ({
  ...mutant,
  fileName: path.join(root, file),
  location: {
    start: { line: start.line - 1, column: start.column - 1 },
    end: { line: end.line - 1, column: end.column - 1 },
  },
});

await main(async () => {
  await ensurePackages();
  const [seed = 1, wanted = 300] = process.argv.slice(2).map(Number);
  const all = await changes();
  if (all.length < 1000) throw new Plain(`Only ${all.length} changes could be made; something is wrong.`);
  const random = randomFrom(seed);
  const drawn = all
    .map((change) => ({ change, at: random() }))
    .sort((a, b) => a.at - b.at)
    .slice(0, wanted)
    .map(({ change }) => change);
  say(`${drawn.length} of ${all.length} changes, drawn with seed ${seed}.`);
  const folder = path.join(data, 'mutation');
  rmSync(folder, { recursive: true, force: true });
  const report = path.join(folder, 'report.json');
  const config = path.join(data, 'mutation.config.json');
  const list = path.join(data, 'mutation.drawn.json');
  writeFileSync(list, JSON.stringify(drawn.map(({ name }) => name)));
  const range = ({ file, location: { start, end } }) =>
    `${file}:${start.line + 1}:${start.column}-${end.line + 1}:${end.column}`;
  writeFileSync(
    config,
    JSON.stringify({
      mutate: drawn.map(range),
      testRunner: 'vitest',
      vitest: { configFile: 'vitest.mutate.config.ts' },
      plugins: ['@stryker-mutator/vitest-runner', path.join(root, 'scripts/lib/drawn.mjs')],
      checkers: ['drawn'],
      drawn: { list },
      coverageAnalysis: 'perTest',
      concurrency: 2,
      timeoutMS: 60_000,
      reporters: ['progress-append-only', 'json'],
      jsonReporter: { fileName: report },
      tempDirName: path.join(folder, 'tmp'),
      ignorePatterns: [
        '.next',
        '.build',
        '.data',
        'docs',
        'public',
        'db',
        'src/app',
        'src/ui',
        'test/e2e',
        'test/bench',
      ],
      allowConsoleColors: false,
    }),
  );
  await run(process.execPath, [path.join(root, 'node_modules/@stryker-mutator/core/bin/stryker.js'), 'run', config], {
    minutes: 180,
    what: 'The mutation test',
  });
  const { files } = JSON.parse(readFileSync(report, 'utf8'));
  const results = new Map(
    Object.entries(files).flatMap(([file, { mutants }]) =>
      mutants.map((mutant) => [changeOf(inPlace(file, mutant)), mutant.status]),
    ),
  );
  const count = { noticed: 0, lived: 0, wrong: 0 };
  for (const { name } of drawn) {
    const status = results.get(name) ?? 'not made';
    // What does not load is no change that anybody could make; what only takes too long was not noticed.
    const met = status === 'Killed' ? 'noticed' : /Error|not made/.test(status) ? 'wrong' : 'lived';
    count[met] += 1;
    if (met !== 'noticed') say(`${status}: ${name.replace(/\s+/g, ' ').slice(0, 200)}`);
  }
  const judged = count.noticed + count.lived;
  say(
    `${count.noticed} of ${judged} were noticed as drawn (${((100 * count.noticed) / judged).toFixed(1)} %)` +
      `${count.wrong ? `; ${count.wrong} could not be made` : ''}.`,
  );
});
