import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, statfsSync, writeFileSync } from 'node:fs';
import path from 'node:path';

/** The folder of this clone. */
export const root = path.resolve(import.meta.dirname, '../..');
export const data = path.join(root, '.data');

/** What goes wrong in a way a person can mend; its message is the whole output. */
export class Plain extends Error {}

export function say(text) {
  process.stdout.write(`${text}\n`);
}

export const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms));

const underWay = new Set();

/**
 * Runs a program to its end with its output shown, or given where it is `quiet`; throws Plain when it fails. `minutes` bounds
 * it, and a stop ends it.
 */
export function run(command, args, { minutes = 15, env = {}, quiet = false, what = command } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
      cwd: root,
      env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', ...env },
      stdio: quiet ? ['ignore', 'pipe', 'pipe'] : ['ignore', 'inherit', 'inherit'],
    });
    underWay.add(child);
    let out = '';
    let said = '';
    child.stdout?.on('data', (piece) => {
      out += piece;
    });
    child.stderr?.on('data', (piece) => {
      said += piece;
    });
    let late = false;
    const bound = setTimeout(() => {
      late = true;
      child.kill('SIGKILL');
    }, minutes * 60_000);
    const over = () => {
      clearTimeout(bound);
      underWay.delete(child);
    };
    child.once('error', (error) => {
      over();
      reject(new Plain(`${what} could not be started: ${error.message}`));
    });
    child.once('close', (code) => {
      over();
      if (late) return reject(new Plain(`${what} took longer than ${minutes} minutes and was ended.`));
      if (code === 0) return resolve(out);
      if (quiet && !stopping.signal.aborted) process.stderr.write(`${out}${said}`);
      reject(new Plain(`${what} failed (exit code ${code}).`));
    });
  });
}

const stopping = new AbortController();

/**
 * The signal of a stop: Ctrl+C, a termination, or a terminal that was closed. It ends what is being run, at whatever step,
 * so that whoever started it can put everything away.
 */
export function stopSignal() {
  const stop = (name) => {
    if (stopping.signal.aborted) return;
    if (name !== 'SIGHUP') say('\nStopping ...');
    stopping.abort();
    for (const child of underWay) child.kill('SIGTERM');
  };
  // A terminal that is gone takes no more lines; that must not end us before all else has ended.
  for (const stream of [process.stdout, process.stderr]) stream.on('error', () => {});
  for (const name of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(name, () => stop(name));
  return stopping.signal;
}

/** Says which step of a start is done now, of how many. */
export function stepper(of) {
  let step = 0;
  return (what) => {
    if (stopping.signal.aborted) throw new Plain('Stopped.');
    step += 1;
    say(`${step} of ${of}: ${what}`);
  };
}

/** Installs the packages of the lock file when they are missing or the lock file has changed since. */
export async function ensurePackages() {
  const lock = createHash('sha256')
    .update(readFileSync(path.join(root, 'package-lock.json')))
    .digest('hex');
  const mark = path.join(root, 'node_modules', '.avenda-lock');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return;
  say('Installing the packages of the lock file ...');
  await run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { minutes: 20, what: 'npm ci' });
  writeFileSync(mark, lock);
}

const programs = {
  postgres: { packages: ['postgresql'], present: () => postgresBin() !== null },
  chromium: {
    packages: ['chromium-headless-shell'],
    present: () => existsSync('/usr/bin/chromium-headless-shell'),
  },
  qpdf: { packages: ['qpdf'], present: () => onPath('qpdf') },
  // Draws letters by itself, beside ours.
  shaper: { packages: ['libharfbuzz-bin'], present: () => onPath('hb-view') },
  poppler: {
    packages: ['poppler-utils', 'poppler-data'],
    present: () => onPath('pdftotext') && existsSync('/usr/share/poppler'),
  },
};
const everything = Object.values(programs).flatMap((program) => program.packages);

function onPath(name) {
  return (process.env.PATH ?? '').split(':').some((folder) => existsSync(path.join(folder, name)));
}

/** The folder of PostgreSQL's newest server programs, or null when none is installed. */
export function postgresBin() {
  const found = spawnSync('sh', ['-c', 'ls -d /usr/lib/postgresql/*/bin/initdb 2>/dev/null | sort -V | tail -n 1']);
  const initdb = String(found.stdout).trim();
  return initdb ? path.dirname(initdb) : null;
}

/** Installs the Debian packages that the named programs need; as a normal user says the one command instead. */
export async function ensurePrograms(...names) {
  const missing = names.filter((name) => !programs[name].present());
  if (missing.length === 0) return;
  const wanted = missing.flatMap((name) => programs[name].packages);
  if (process.getuid?.() !== 0)
    throw new Plain(
      `Missing on this machine: ${wanted.join(', ')}. This command installs everything that the demo and the tests need:\n` +
        `  sudo sh -c 'apt-get update && mkdir -p /etc/postgresql-common && echo "create_main_cluster = false" > /etc/postgresql-common/createcluster.conf && apt-get install -y --no-install-recommends ${everything.join(' ')}'`,
    );
  say(`Installing ${wanted.join(', ')} ...`);
  // Debian would start a cluster of its own on port 5432; ours is all that is wanted.
  if (missing.includes('postgres') && !existsSync('/etc/postgresql-common/createcluster.conf')) {
    mkdirSync('/etc/postgresql-common', { recursive: true });
    writeFileSync('/etc/postgresql-common/createcluster.conf', 'create_main_cluster = false\n');
  }
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  const lock = ['-o', 'DPkg::Lock::Timeout=600'];
  await run('apt-get', [...lock, 'update', '-q'], { minutes: 15, env, quiet: true, what: 'apt-get update' });
  run(
    'apt-get',
    [...lock, 'install', '-y', '-q', '--no-install-recommends', '-o', 'Dpkg::Options::=--force-confold', ...wanted],
    {
      minutes: 30,
      env,
      quiet: true,
      what: 'apt-get install',
    },
  );
}

/** Refuses to begin with a disk so full that the work would stop half way. */
export function ensureDisk(folder, megabytes) {
  const { bavail, bsize } = statfsSync(folder);
  const free = Math.floor((bavail * bsize) / 1024 / 1024);
  if (free < megabytes)
    throw new Plain(
      `The disk is nearly full: ${free} MB free in ${folder}, ${megabytes} MB are needed. Please make room and start again.`,
    );
}

/** Runs a script's body; what a person can mend is printed as one sentence, without a stack trace. */
export async function main(body) {
  try {
    await body();
  } catch (error) {
    if (stopping.signal.aborted) return;
    if (error?.code === 'ENOSPC') process.stderr.write('The disk is full. Please make room and start again.\n');
    else if (error instanceof Plain) process.stderr.write(`${error.message}\n`);
    else process.stderr.write(`${error?.stack ?? error}\n`);
    process.exitCode = 1;
  }
}
