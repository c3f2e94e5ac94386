import { spawn } from 'node:child_process';
import path from 'node:path';
import { refuse } from '../refused';

/** How many child processes run at once, and how many wait: each may take more than a gigabyte. */
const atOnce = 2;
const mostWaiting = 40;
let running = 0;
const waiting: (() => void)[] = [];

async function inTurn<T>(work: () => Promise<T>): Promise<T> {
  if (running >= atOnce) {
    if (waiting.length >= mostWaiting) refuse('busy');
    await new Promise<void>((resolve) => waiting.push(resolve));
  }
  running += 1;
  try {
    return await work();
  } finally {
    running -= 1;
    waiting.shift()?.();
  }
}

/**
 * Runs one of our own programs in a child process with bounds on time and memory, hands it JSON and takes JSON back.
 * Files are parsed and made there, so that a hostile or enormous one cannot take the server with it; a few at a time,
 * so that many of them cannot take the machine.
 */
export function inChild<T>(
  entry: 'inspect' | 'render',
  task: unknown,
  bounds: { seconds: number; megabytes: number },
): Promise<T> {
  return inTurn(() => started<T>(entry, task, bounds));
}

function started<T>(entry: string, task: unknown, bounds: { seconds: number; megabytes: number }): Promise<T> {
  return new Promise((resolve, reject) => {
    const child = spawn(
      process.execPath,
      [
        `--max-old-space-size=${bounds.megabytes}`,
        '--enable-source-maps',
        path.join(process.cwd(), '.build', `${entry}.mjs`),
      ],
      // No secrets and no database reach a process that reads strangers' files.
      {
        stdio: ['pipe', 'pipe', 'pipe'],
        env: { PATH: process.env.PATH, HOME: process.env.HOME, NODE_ENV: 'production', TZ: 'UTC' },
      },
    );
    const out: Buffer[] = [];
    const err: Buffer[] = [];
    let size = 0;
    const timer = setTimeout(() => {
      child.kill('SIGKILL');
      reject(new ChildFailed('time'));
    }, bounds.seconds * 1000);
    child.stdout.on('data', (chunk: Buffer) => {
      size += chunk.length;
      if (size > 16 * 1024 * 1024) child.kill('SIGKILL');
      else out.push(chunk);
    });
    child.stderr.on('data', (chunk: Buffer) => err.length < 20 && err.push(chunk));
    child.on('error', reject);
    child.on('close', (code) => {
      clearTimeout(timer);
      if (code !== 0) return reject(new ChildFailed('ended', Buffer.concat(err).toString().slice(0, 2000)));
      try {
        resolve(JSON.parse(Buffer.concat(out).toString()) as T);
      } catch {
        reject(new ChildFailed('nonsense'));
      }
    });
    child.stdin.on('error', () => {});
    child.stdin.end(JSON.stringify(task));
  });
}

export class ChildFailed extends Error {
  constructor(
    readonly why: 'time' | 'ended' | 'nonsense',
    detail = '',
  ) {
    super(`a child process failed (${why}) ${detail}`);
  }
}
