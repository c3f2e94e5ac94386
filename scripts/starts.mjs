import { spawn } from 'node:child_process';
import { readdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { build } from './lib/build.mjs';
import { data, ensurePackages, ensurePrograms, main, Plain, pause, root, say } from './lib/machine.mjs';
import { refuseSecondStart } from './lib/serve.mjs';

/**
 * `npm run starts`: starts the demonstration again and again and ends it at each of its steps, by Ctrl+C, by SIGTERM, by a
 * closed terminal and by SIGKILL. Nothing that was started may be left; after SIGKILL the next start has to end it.
 */
const signals = ['SIGINT', 'SIGTERM', 'SIGHUP', 'SIGKILL'];
const steps = 6;
const faults = [];

/** What of the demonstration runs: by its own database folder, or by a process of its own bundles. */
function left() {
  return readdirSync('/proc').flatMap((id) => {
    if (!/^\d+$/.test(id) || Number(id) === process.pid) return [];
    try {
      const line = readFileSync(`/proc/${id}/cmdline`, 'utf8').replaceAll('\0', ' ').trim();
      const ours = [path.join(data, 'demo'), path.join(root, '.build'), 'scripts/demo.mjs', 'next/dist/bin/next'];
      return ours.some((part) => line.includes(part)) ? [`${id} ${line.slice(0, 90)}`] : [];
    } catch {
      // It has ended meanwhile.
      return [];
    }
  });
}

/** Starts the demonstration, ends it by a signal once it has said a step, and waits until it is gone. */
async function started(step, signal) {
  const child = spawn(process.execPath, [path.join(root, 'scripts/demo.mjs')], {
    cwd: root,
    stdio: ['ignore', 'pipe', 'pipe'],
    // A group of its own, as a terminal gives it.
    detached: true,
  });
  let said = '';
  const reached = new Promise((resolve, reject) => {
    const hear = (piece) => {
      said += piece;
      if (said.includes(`${step} of ${steps}: `)) resolve();
    };
    child.stdout.on('data', hear);
    child.stderr.on('data', hear);
    child.on('exit', () => reject(new Plain(`The start ended before step ${step}: ${said.slice(-400)}`)));
  });
  const gone = new Promise((resolve) => child.on('exit', resolve));
  const bound = setTimeout(() => child.kill('SIGKILL'), 600_000);
  await reached;
  // In the middle of the step rather than at its very beginning.
  await pause(150 * step);
  // A terminal tells its whole group; somebody who kills names one process.
  process.kill(signal === 'SIGINT' || signal === 'SIGHUP' ? -child.pid : child.pid, signal);
  await gone;
  clearTimeout(bound);
}

async function nothingLeft(what) {
  for (let tries = 0; tries < 100 && left().length > 0; tries += 1) await pause(100);
  const rest = left();
  if (rest.length > 0) faults.push(`${what}: ${rest.join('; ')}`);
  say(`${what}: ${rest.length === 0 ? 'nothing is left' : `LEFT ${rest.join('; ')}`}`);
}

await main(async () => {
  await ensurePrograms('postgres');
  await ensurePackages();
  await refuseSecondStart();
  await build();
  for (const signal of signals)
    for (let step = 1; step <= steps; step += 1) {
      // While the pages are built, too.
      if (step === 2 && signal !== 'SIGKILL') rmSync(path.join(root, '.build/fingerprint'), { force: true });
      await started(step, signal);
      if (signal !== 'SIGKILL') await nothingLeft(`${signal} at step ${step}`);
      else {
        // The next start ends what this one has left, and is ended itself in good order.
        await started(steps, 'SIGTERM');
        await nothingLeft(`SIGKILL at step ${step}, and the next start`);
      }
      if (step === 2) await build();
    }
  if (faults.length > 0) throw new Plain(`${faults.length} starts left something:\n${faults.join('\n')}`);
  say(`${signals.length * steps} starts were ended, and nothing was left.`);
});
