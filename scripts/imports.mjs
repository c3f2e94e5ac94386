import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { main, Plain, root, say } from './lib/machine.mjs';

/** Checks that imports go one way (.dependency-cruiser.cjs), and that modules were looked at at all. */
await main(async () => {
  const result = spawnSync(
    process.execPath,
    [
      path.join(root, 'node_modules/dependency-cruiser/bin/dependency-cruise.mjs'),
      '--config',
      '.dependency-cruiser.cjs',
      '--output-type',
      'json',
      'src',
    ],
    { cwd: root, maxBuffer: 256 * 1024 * 1024, timeout: 300_000 },
  );
  let summary;
  try {
    summary = JSON.parse(String(result.stdout)).summary;
  } catch {
    throw new Plain(`The check of imports gave no result: ${String(result.stderr).trim()}`);
  }
  if (summary.totalCruised < 50)
    throw new Plain(`The check of imports looked at only ${summary.totalCruised} modules.`);
  for (const violation of summary.violations) say(`${violation.rule.name}: ${violation.from} -> ${violation.to}`);
  if (summary.violations.length > 0) throw new Plain(`${summary.violations.length} imports go the wrong way.`);
  say(`imports: ${summary.totalCruised} modules, ${summary.totalDependenciesCruised} imports, none goes the wrong way`);
});
