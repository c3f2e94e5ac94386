import { createHash } from 'node:crypto';
import { inOrganization, type Tx } from '../db/connect';

/** Files are kept by the SHA-256 of their bytes, in chunks, once per organization however often they are used. */
export const chunkSize = 256 * 1024;

export interface FileFacts {
  readonly pages?: readonly { readonly width: number; readonly height: number }[];
}

export interface StoredFile {
  readonly hash: string;
  readonly bytes: number;
  readonly mediaType: string;
  readonly facts: FileFacts;
}

export function sha256(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}

/**
 * Keeps a file from a source that can be read more than once, in several short transactions. The row that makes the
 * file exist is written last, so a broken upload leaves no file behind.
 */
export async function putFile(
  organization: string,
  file: StoredFile,
  read: () => AsyncIterable<Uint8Array>,
): Promise<void> {
  if (await inOrganization(organization, (tx) => findFile(tx, file.hash))) return;
  let position = 0;
  let pending: Uint8Array[] = [];
  let held = 0;
  const flush = async (whole: Uint8Array) => {
    const at = position;
    position += 1;
    await inOrganization(
      organization,
      (tx) => tx.sql`
      insert into chunk (organization, hash, position, bytes) values (${organization}, ${file.hash}, ${at}, ${whole as Buffer})
      on conflict do nothing`,
    );
  };
  for await (const piece of read()) {
    pending.push(piece);
    held += piece.length;
    while (held >= chunkSize) {
      const joined = Buffer.concat(pending);
      await flush(joined.subarray(0, chunkSize));
      pending = [joined.subarray(chunkSize)];
      held -= chunkSize;
    }
  }
  if (held > 0 || position === 0) await flush(Buffer.concat(pending));
  await inOrganization(organization, (tx) => noteFile(tx, file));
}

/** Keeps bytes that are held already; for what this program makes itself. */
export async function putBytes(
  organization: string,
  bytes: Uint8Array,
  mediaType: string,
  facts: FileFacts = {},
): Promise<StoredFile> {
  const file = { hash: sha256(bytes), bytes: bytes.length, mediaType, facts };
  await putFile(organization, file, async function* () {
    yield bytes;
  });
  return file;
}

async function noteFile(tx: Tx, file: StoredFile): Promise<void> {
  await tx.sql`
    insert into file (organization, hash, bytes, media_type, facts, created)
    values (${tx.organization}, ${file.hash}, ${file.bytes}, ${file.mediaType}, ${tx.sql.json(file.facts as never)}, ${tx.now})
    on conflict do nothing`;
}

export async function findFile(tx: Tx, hash: string): Promise<StoredFile | null> {
  const [row] = await tx.sql<StoredFile[]>`
    select hash, bytes, media_type, facts from file where organization = ${tx.organization} and hash = ${hash}`;
  return row ?? null;
}

/** The bytes from `from` up to and not including `to`, chunk by chunk, each read in a transaction of its own. */
export async function* readRange(
  organization: string,
  hash: string,
  from: number,
  to: number,
): AsyncGenerator<Uint8Array> {
  for (let at = from; at < to; ) {
    const position = Math.floor(at / chunkSize);
    const [row] = await inOrganization(
      organization,
      (tx) => tx.sql<{ bytes: Uint8Array }[]>`
      select bytes from chunk where organization = ${organization} and hash = ${hash} and position = ${position}`,
    );
    if (!row) throw new Error(`chunk ${position} of file ${hash} is missing`);
    const start = at - position * chunkSize;
    const piece = row.bytes.subarray(start, Math.min(row.bytes.length, start + (to - at)));
    if (piece.length === 0) throw new Error(`chunk ${position} of file ${hash} is short`);
    yield piece;
    at += piece.length;
  }
}

/** A whole file in memory; for what must be parsed. Its hash is checked against what was read. */
export async function readWhole(organization: string, file: StoredFile): Promise<Buffer> {
  const pieces: Uint8Array[] = [];
  for await (const piece of readRange(organization, file.hash, 0, file.bytes)) pieces.push(piece);
  const bytes = Buffer.concat(pieces);
  if (sha256(bytes) !== file.hash) throw new Error(`file ${file.hash} is damaged in the store`);
  return bytes;
}

/** Keeps small bytes in the transaction of what needs them. */
export async function putWithin(tx: Tx, bytes: Uint8Array, mediaType: string): Promise<StoredFile> {
  const file: StoredFile = { hash: sha256(bytes), bytes: bytes.length, mediaType, facts: {} };
  for (let position = 0; position * chunkSize < Math.max(1, bytes.length); position += 1)
    await tx.sql`
      insert into chunk (organization, hash, position, bytes)
      values (${tx.organization}, ${file.hash}, ${position}, ${Buffer.from(bytes.subarray(position * chunkSize, (position + 1) * chunkSize))})
      on conflict do nothing`;
  await noteFile(tx, file);
  return file;
}
