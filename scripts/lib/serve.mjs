import { spawn } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { data, Plain, root, run, say } from './machine.mjs';

const marker = path.join(data, 'running.json');

/**
 * Refuses a second start in the same clone, and names the first. What a start that was killed has left running is ended
 * first: its parts, and by `startCluster` its database.
 */
export async function refuseSecondStart() {
  mkdirSync(data, { recursive: true });
  const first = readMarker();
  if (first && /scripts\/(demo|start)\.mjs/.test(commandOf(first.pid)))
    throw new Plain(
      `Avenda is already running from this folder, at ${first.url ?? 'an address it will print'} (process ${first.pid}). Stop it there with Ctrl+C first.`,
    );
  const left = (first?.parts ?? []).filter((pid) => commandOf(pid).includes(path.join(root, '.build')));
  if (left.length > 0) say('An earlier start was killed; what it left running is ended first.');
  const signal = (name) => {
    for (const pid of left.filter((one) => commandOf(one) !== '')) process.kill(pid, name);
  };
  signal('SIGTERM');
  for (let i = 0; i < 40 && left.some((pid) => commandOf(pid) !== ''); i += 1)
    await new Promise((resolve) => setTimeout(resolve, 200));
  signal('SIGKILL');
  forgetRunning();
}

function readMarker() {
  try {
    return JSON.parse(readFileSync(marker, 'utf8'));
  } catch {
    return null;
  }
}

/** The command line of a process; empty when there is none. */
function commandOf(pid) {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8');
  } catch {
    return '';
  }
}

let noted = { pid: process.pid, url: null, parts: [] };

/** Notes what is known of this start: its address, the processes of its parts. */
export function noteRunning(more) {
  noted = { ...noted, ...more };
  writeFileSync(marker, JSON.stringify(noted));
}

/** Notes one more process of this start as soon as there is one: it may be killed before that is ready. */
export function notePart(pid) {
  noteRunning({ parts: [...noted.parts, pid] });
}

export function forgetRunning() {
  rmSync(marker, { force: true });
}

/** Runs one of the built processes to its end, with its output shown. */
export function runEntry(name, env, args = [], minutes = 10) {
  return run(process.execPath, ['--enable-source-maps', path.join(root, '.build', `${name}.mjs`), ...args], {
    env,
    minutes,
    what: name,
  });
}

/** Starts one of the built processes and gives it when it says READY; `spawned` is told its id before that. */
export function startEntry(name, env, { seconds = 90, spawned = () => {} } = {}) {
  const child = spawn(process.execPath, ['--enable-source-maps', path.join(root, '.build', `${name}.mjs`)], {
    cwd: root,
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', NODE_ENV: 'production', ...env },
    stdio: ['ignore', 'pipe', 'inherit'],
    // Its own group, so that Ctrl+C reaches only this script, which then ends everything in order.
    detached: true,
  });
  spawned(child.pid);
  return new Promise((resolve, reject) => {
    const late = setTimeout(() => {
      child.kill('SIGKILL');
      reject(new Plain(`${name} was not ready within ${seconds} seconds.`));
    }, seconds * 1000);
    child.once('exit', (code) => {
      clearTimeout(late);
      reject(new Plain(`${name} ended before it was ready (exit code ${code}).`));
    });
    let ready = false;
    child.stdout.on('data', (chunk) => {
      const text = String(chunk);
      if (!ready && text.includes('READY')) {
        ready = true;
        clearTimeout(late);
        resolve(child);
      }
      const rest = text.replace(/READY\n?/, '');
      if (rest.trim()) process.stdout.write(rest);
    });
  });
}

/** Ends processes gently, then for good. */
export async function endAll(children) {
  await Promise.all(
    children.map(
      (child) =>
        new Promise((resolve) => {
          if (child.exitCode !== null || child.signalCode !== null) return resolve();
          const hard = setTimeout(() => child.kill('SIGKILL'), 8000);
          child.once('exit', () => {
            clearTimeout(hard);
            resolve();
          });
          child.kill('SIGTERM');
        }),
    ),
  );
}

const longestPause = 60_000;
/** A part that ran this long is taken to be well: its next fall begins with the shortest pause. */
const wellAfter = 60_000;

/** The pause before a part is started again after so many falls in a row: 1, 2, 4 ... 60 seconds. */
export function pauseAfter(falls) {
  return Math.min(longestPause, 1000 * 2 ** (falls - 1));
}

/**
 * Keeps parts of Avenda running, in order: what dies is started again with growing pauses, and the others go on. The
 * first start of each must succeed. Gives the way to end them all. `note` is told each process as soon as there is one.
 */
export async function keepRunning(
  parts,
  env,
  { started = startEntry, pause = pauseAfter, note = () => {}, stopped = null } = {},
) {
  const children = new Map();
  const waiting = new Set();
  let ending = false;
  const watch = (part, falls) => {
    const child = children.get(part);
    const since = Date.now();
    child.once('exit', (code, signal) => {
      children.delete(part);
      if (ending) return;
      const fallen = Date.now() - since > wellAfter ? 1 : falls + 1;
      again(part, fallen, `${part} ended by itself (${signal ?? `exit code ${code}`})`);
    });
  };
  const again = (part, falls, why) => {
    const ms = pause(falls);
    say(`${why}; it is started again in ${Math.round(ms / 1000)} s.`);
    const timer = setTimeout(async () => {
      waiting.delete(timer);
      try {
        const child = await started(part, env, { spawned: note });
        if (ending) return endAll([child]);
        children.set(part, child);
        watch(part, falls);
      } catch (error) {
        if (!ending) again(part, falls + 1, error.message);
      }
    }, ms);
    waiting.add(timer);
  };
  const end = async () => {
    ending = true;
    for (const timer of waiting) clearTimeout(timer);
    await endAll([...children.values()]);
  };
  try {
    for (const part of parts) {
      if (stopped?.aborted) break;
      children.set(part, await started(part, env, { spawned: note }));
      watch(part, 0);
    }
  } catch (error) {
    await end();
    throw error;
  }
  return { end };
}

/**
 * Starts one of the built processes that does its work beside the others and ends by itself; gives the way to end it. What
 * it has not done it goes on with after the next start.
 */
export function runBeside(name, env) {
  const child = spawn(process.execPath, ['--enable-source-maps', path.join(root, '.build', `${name}.mjs`)], {
    cwd: root,
    env: { ...process.env, NODE_ENV: 'production', ...env },
    stdio: ['ignore', 'inherit', 'inherit'],
    detached: true,
  });
  return { pid: child.pid, end: () => endAll([child]) };
}

/** Waits until a stop. */
export function untilStopped(signal) {
  return new Promise((resolve) => {
    if (signal.aborted) resolve();
    else signal.addEventListener('abort', () => resolve());
  });
}
