import { createHash } from 'node:crypto';
import { inOrganization, sendWrite, type Tx } from '../db/connect';

/**
 * Files are kept by the SHA-256 of their bytes, once per organization however often they are used: as a list of chunks,
 * each kept once under its own hash, so that a file grown by an increment costs little more than its own bytes.
 */
export const chunkSize = 256 * 1024;

export interface FileFacts {
  readonly pages?: readonly { readonly width: number; readonly height: number }[];
  /** What each page is made of, as a hash, where that can be told of each. */
  readonly prints?: readonly string[];
  /** What is said of the file where it is submitted; see PdfNotice. */
  readonly notices?: readonly string[];
  /** Why it cannot take fields, when it cannot. */
  readonly noFields?: string;
  /** The bytes as they were sent, when the file is a repaired copy of them. */
  readonly original?: string;
}

export interface StoredFile {
  readonly hash: string;
  readonly bytes: number;
  readonly mediaType: string;
  readonly facts: FileFacts;
}

interface ChunkedFile extends StoredFile {
  readonly chunks: readonly string[];
}

export function sha256(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}

/** The pieces of a source joined and cut into chunks of one size and a rest; an empty source gives one empty chunk. */
async function* inChunks(source: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let pending: Uint8Array[] = [];
  let held = 0;
  let any = false;
  for await (const piece of source) {
    pending.push(piece);
    held += piece.length;
    while (held >= chunkSize) {
      const joined = Buffer.concat(pending);
      yield joined.subarray(0, chunkSize);
      any = true;
      pending = [joined.subarray(chunkSize)];
      held -= chunkSize;
    }
  }
  if (held > 0 || !any) yield Buffer.concat(pending);
}

function keepChunk(tx: Tx, hash: string, bytes: Uint8Array) {
  return tx.sql`
    insert into chunk (organization, hash, bytes, created) values (${tx.organization}, ${hash}, ${bytes as Buffer}, ${tx.now})
    on conflict do nothing`;
}

function keepRow(tx: Tx, file: StoredFile, chunks: readonly string[], uploader: string | null) {
  return tx.sql`
    insert into file (organization, hash, bytes, media_type, facts, chunks, uploader, created)
    values (${tx.organization}, ${file.hash}, ${file.bytes}, ${file.mediaType}, ${tx.sql.json(file.facts as never)},
            ${chunks as string[]}, ${uploader}, ${tx.now})
    on conflict do nothing`;
}

/**
 * Keeps a file from a source, in several short transactions. The row that makes the file exist is written last, so a
 * broken upload leaves no file behind; chunks without a file are cleared away.
 */
export async function putFile(
  organization: string,
  file: StoredFile,
  read: () => AsyncIterable<Uint8Array>,
  uploader: string | null = null,
): Promise<void> {
  const noteUpload = (tx: Tx) => {
    if (uploader)
      sendWrite(tx.sql`
        insert into upload (organization, file, person, at) values (${organization}, ${file.hash}, ${uploader}, ${tx.now})
        on conflict (organization, file, person) do update set at = excluded.at`);
  };
  const there = await inOrganization(organization, async (tx) => {
    const known = await findFile(tx, file.hash);
    if (known) noteUpload(tx);
    return known;
  });
  if (there) return;
  const chunks: string[] = [];
  for await (const bytes of inChunks(read())) {
    const hash = sha256(bytes);
    chunks.push(hash);
    await inOrganization(organization, async (tx) => void (await keepChunk(tx, hash, bytes)));
  }
  await inOrganization(organization, async (tx) => {
    sendWrite(keepRow(tx, file, chunks, uploader));
    noteUpload(tx);
  });
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

/** Keeps small bytes in the transaction of what needs them. */
export async function putWithin(tx: Tx, bytes: Uint8Array, mediaType: string): Promise<StoredFile> {
  const file: StoredFile = { hash: sha256(bytes), bytes: bytes.length, mediaType, facts: {} };
  const chunks: string[] = [];
  for await (const piece of inChunks(
    (async function* () {
      yield bytes;
    })(),
  )) {
    const hash = sha256(piece);
    chunks.push(hash);
    await keepChunk(tx, hash, piece);
  }
  sendWrite(keepRow(tx, file, chunks, null));
  return file;
}

export async function findFile(tx: Tx, hash: string): Promise<StoredFile | null> {
  const [row] = await tx.sql<StoredFile[]>`
    select hash, bytes, media_type, facts from file where organization = ${tx.organization} and hash = ${hash}`;
  return row ?? null;
}

/** The facts of several files, by hash. */
export async function factsOf(tx: Tx, hashes: readonly string[]): Promise<ReadonlyMap<string, FileFacts>> {
  if (hashes.length === 0) return new Map();
  const rows = await tx.sql<{ hash: string; facts: FileFacts }[]>`
    select hash, facts from file where organization = ${tx.organization} and hash = any(${hashes as string[]})`;
  return new Map(rows.map((row) => [row.hash, row.facts]));
}

/**
 * The bytes from `from` up to and not including `to`, chunk by chunk, each read in a transaction of its own and checked
 * against its hash; of a whole file the hash of all is checked too. Throws before it hands out what is not what was kept.
 */
export async function* readRange(
  organization: string,
  hash: string,
  from: number,
  to: number,
): AsyncGenerator<Uint8Array> {
  const file = await inOrganization(organization, async (tx) => {
    const [row] = await tx.sql<ChunkedFile[]>`
      select hash, bytes, media_type, facts, chunks from file where organization = ${organization} and hash = ${hash}`;
    return row;
  });
  if (!file) throw new Error(`file ${hash} is missing`);
  const whole = from === 0 && to === file.bytes ? createHash('sha256') : null;
  for (let at = from; at < to || (at === 0 && to === 0); ) {
    const position = Math.floor(at / chunkSize);
    const name = file.chunks[position];
    const [row] = await inOrganization(
      organization,
      (tx) => tx.sql<{ bytes: Uint8Array }[]>`
      select bytes from chunk where organization = ${organization} and hash = ${name ?? ''}`,
    );
    if (!row || sha256(row.bytes) !== name) throw new Error(`chunk ${position} of file ${hash} is missing or damaged`);
    const start = at - position * chunkSize;
    const piece = row.bytes.subarray(start, Math.min(row.bytes.length, start + (to - at)));
    if (piece.length === 0 && to > 0) throw new Error(`chunk ${position} of file ${hash} is short`);
    at += piece.length;
    whole?.update(piece);
    if (whole && at >= to && whole.digest('hex') !== hash) throw new Error(`file ${hash} is damaged in the store`);
    yield piece;
    if (to === 0) return;
  }
}

/** A whole file in memory; for what must be parsed. */
export async function readWhole(organization: string, file: StoredFile): Promise<Buffer> {
  const pieces: Uint8Array[] = [];
  for await (const piece of readRange(organization, file.hash, 0, file.bytes)) pieces.push(piece);
  return Buffer.concat(pieces);
}

/** Says which files an owner (a circulation, a record, a draft) needs, so that they are not cleared away. */
export function claimFiles(tx: Tx, owner: string, files: Iterable<string>): void {
  const rows = [...new Set(files)].map((file) => ({ organization: tx.organization, owner, file }));
  if (rows.length > 0) sendWrite(tx.sql`insert into file_use ${tx.sql(rows)} on conflict do nothing`);
}
