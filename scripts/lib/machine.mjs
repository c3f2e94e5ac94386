import { spawnSync } from 'node:child_process';
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

/** Runs a program to its end with its output shown; throws Plain when it fails. `minutes` bounds it. */
export function run(command, args, { minutes = 15, env = {}, quiet = false, what = command } = {}) {
  const result = spawnSync(command, args, {
    cwd: root,
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1', ...env },
    stdio: quiet ? ['ignore', 'pipe', 'pipe'] : ['ignore', 'inherit', 'inherit'],
    timeout: minutes * 60_000,
    maxBuffer: 64 * 1024 * 1024,
  });
  if (result.error?.code === 'ETIMEDOUT') throw new Plain(`${what} took longer than ${minutes} minutes and was ended.`);
  if (result.error) throw new Plain(`${what} could not be started: ${result.error.message}`);
  if (result.status !== 0) {
    if (quiet) process.stderr.write(`${result.stdout}${result.stderr}`);
    throw new Plain(`${what} failed (exit code ${result.status}).`);
  }
  return quiet ? String(result.stdout) : '';
}

/** Installs the packages of the lock file when they are missing or the lock file has changed since. */
export function ensurePackages() {
  const lock = createHash('sha256')
    .update(readFileSync(path.join(root, 'package-lock.json')))
    .digest('hex');
  const mark = path.join(root, 'node_modules', '.avenda-lock');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return;
  say('Installing the packages of the lock file ...');
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { minutes: 20, what: 'npm ci' });
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
export function ensurePrograms(...names) {
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
  run('apt-get', [...lock, 'update', '-q'], { minutes: 15, env, quiet: true, what: 'apt-get update' });
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
    if (error?.code === 'ENOSPC') process.stderr.write('The disk is full. Please make room and start again.\n');
    else if (error instanceof Plain) process.stderr.write(`${error.message}\n`);
    else process.stderr.write(`${error?.stack ?? error}\n`);
    process.exitCode = 1;
  }
}
