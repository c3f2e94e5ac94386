import { createWriteStream } from 'node:fs';
import { mkdtemp, readdir, rm, stat } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { readRange, type StoredFile } from './store';

const prefix = `avenda-${process.getuid?.() ?? 0}-`;

/** Runs `work` with a folder of its own, which is gone afterwards whatever happens. */
export async function inTemporaryFolder<T>(work: (folder: string) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(path.join(os.tmpdir(), `${prefix}${process.pid}-`));
  try {
    return await work(folder);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Removes the folders of processes that were killed before they could: those whose process is no more. */
export async function clearAbandonedFolders(): Promise<number> {
  let cleared = 0;
  for (const name of await readdir(os.tmpdir())) {
    const pid = name.startsWith(prefix) ? Number(name.slice(prefix.length).split('-')[0]) : 0;
    if (!pid || isAlive(pid)) continue;
    const folder = path.join(os.tmpdir(), name);
    const there = await stat(folder).catch(() => null);
    if (!there?.isDirectory()) continue;
    await rm(folder, { recursive: true, force: true });
    cleared += 1;
  }
  return cleared;
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as { code?: string }).code === 'EPERM';
  }
}

/** Writes a kept file to disk, for a child process to read. */
export async function copyOut(organization: string, file: StoredFile, to: string): Promise<void> {
  await pipeline(
    Readable.from(readRange(organization, file.hash, 0, file.bytes)),
    createWriteStream(to, { mode: 0o600 }),
  );
}
