import path from 'node:path';
import { Worker } from 'node:worker_threads';
import { log } from '../log';
import type { Asked, Reply } from './reply';

/**
 * The operations run in a thread of their own. The framework that serves the pages follows every promise of its thread
 * (its asynchronous context), which makes each of a command's many steps several times dearer; the thread knows nothing
 * of it. The route handlers hand over what was asked as plain values.
 */
interface Thread {
  readonly worker: Worker;
  readonly waiting: Map<number, (reply: Reply) => void>;
  last: number;
}

/** What crosses between the threads; `null` asks the thread to end. */
export type ToThread = { readonly id: number; readonly asked: Asked } | null;
export type FromThread = { readonly id: number; readonly reply: Reply } | 'ready';

// One thread a process, also when a bundler gives several copies of this module.
const scope = globalThis as { avendaOperations?: Thread };

/** Starts the thread and waits until it can be asked. When it ends by itself, so does the process. */
export async function startOperations(): Promise<void> {
  const worker = new Worker(path.join(process.cwd(), '.build', 'operations.mjs'), {
    // What a command makes is dead when it ends; with room for many of them little of it is ever looked at again.
    resourceLimits: { maxYoungGenerationSizeMb: 64 },
  });
  const thread: Thread = { worker, waiting: new Map(), last: 0 };
  scope.avendaOperations = thread;
  worker.on('error', (error) => log.fatal({ error: error.stack }, 'the operations failed'));
  worker.on('exit', (code) => {
    if (scope.avendaOperations === thread) process.exit(code || 1);
  });
  await new Promise<void>((resolve) => {
    worker.on('message', (message: FromThread) => {
      if (message === 'ready') return resolve();
      const answer = thread.waiting.get(message.id);
      thread.waiting.delete(message.id);
      answer?.(message.reply);
    });
  });
}

/** Has an operation run, and gives its reply. */
export function askOperations(asked: Asked): Promise<Reply> {
  const thread = scope.avendaOperations;
  if (!thread) throw new Error('the operations have not been started');
  return new Promise((resolve) => {
    thread.last += 1;
    thread.waiting.set(thread.last, resolve);
    thread.worker.postMessage({ id: thread.last, asked } satisfies ToThread);
  });
}

/** Ends the thread when it has let go of the database. */
export async function stopOperations(): Promise<void> {
  const thread = scope.avendaOperations;
  if (!thread) return;
  delete scope.avendaOperations;
  const ended = new Promise((resolve) => thread.worker.once('exit', resolve));
  thread.worker.postMessage(null satisfies ToThread);
  await ended;
}
