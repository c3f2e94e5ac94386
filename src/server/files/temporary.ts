import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { readRange, type StoredFile } from './store';

/** Runs `work` with a folder of its own, which is gone afterwards whatever happens. */
export async function inTemporaryFolder<T>(work: (folder: string) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(path.join(os.tmpdir(), 'avenda-'));
  try {
    return await work(folder);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Writes a kept file to disk, for a child process to read. */
export async function copyOut(organization: string, file: StoredFile, to: string): Promise<void> {
  await pipeline(
    Readable.from(readRange(organization, file.hash, 0, file.bytes)),
    createWriteStream(to, { mode: 0o600 }),
  );
}
