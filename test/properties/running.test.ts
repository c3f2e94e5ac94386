import { EventEmitter } from 'node:events';
import { describe, expect, it, vi } from 'vitest';

interface Part extends EventEmitter {
  exitCode: number | null;
  signalCode: string | null;
  kill: (signal: string) => void;
}
const script = '../../scripts/lib/serve.mjs';

describe('what is kept running', () => {
  it('pauses longer after each fall in a row, up to a minute', async () => {
    const { pauseAfter } = await import(script);
    expect([1, 2, 3, 4, 5, 6, 7, 20].map(pauseAfter)).toEqual([1000, 2000, 4000, 8000, 16_000, 32_000, 60_000, 60_000]);
  });

  it('is noted as soon as there is a process, before that is ready, so that the next start can end it', async () => {
    const { keepRunning } = await import(script);
    const noted: number[] = [];
    const seen: (readonly number[])[] = [];
    let next = 100;
    const started = async (_name: string, _env: object, { spawned }: { spawned: (pid: number) => void }) => {
      next += 1;
      spawned(next);
      seen.push([...noted]);
      // It is killed before it says that it is ready.
      if (next === 102) throw new Error('killed');
      return Object.assign(new EventEmitter(), { exitCode: 0, signalCode: null, kill: () => {} });
    };
    const note = (pid: number) => noted.push(pid);
    await expect(keepRunning(['worker', 'server'], {}, { started, note })).rejects.toThrow('killed');
    expect(seen).toEqual([[101], [101, 102]]);
  });

  it('is started again when it dies, by itself and alone, until it is ended', async () => {
    vi.spyOn(process.stdout, 'write').mockReturnValue(true);
    const { keepRunning } = await import(script);
    const begun: string[] = [];
    const living = new Map<string, Part>();
    let broken = 0;
    const started = async (name: string) => {
      begun.push(name);
      if (broken > 0 && name === 'worker') {
        broken -= 1;
        throw new Error('the database is away');
      }
      const part = Object.assign(new EventEmitter(), {
        exitCode: null as number | null,
        signalCode: null,
        kill: () => {
          part.exitCode = 0;
          part.emit('exit', 0, null);
        },
      });
      living.set(name, part);
      return part;
    };
    const { end } = await keepRunning(['worker', 'server'], {}, { started, pause: () => 1 });
    expect(begun).toEqual(['worker', 'server']);
    // It falls, and cannot come back at once.
    broken = 2;
    living.get('worker')?.emit('exit', null, 'SIGKILL');
    await expect.poll(() => begun.filter((name) => name === 'worker').length).toBe(4);
    expect(begun.filter((name) => name === 'server')).toHaveLength(1);
    await end();
    const count = begun.length;
    await new Promise((resolve) => setTimeout(resolve, 30));
    expect(begun.length).toBe(count);
    vi.restoreAllMocks();
  });
});
