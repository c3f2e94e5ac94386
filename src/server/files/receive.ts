import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { readFile, statfs } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream as WebStream } from 'node:stream/web';
import { fileTypeFromFile } from 'file-type';
import type { Inspection, PdfFault, PdfRepair } from '../children/inspectPdf';
import { ChildFailed, inChild } from '../children/run';
import { inOrganization } from '../db/connect';
import { refuse } from '../refused';
import { settings } from '../settings';
import { type FileFacts, putFile, type StoredFile, sha256 } from './store';
import { inTemporaryFolder } from './temporary';

/** What a refused upload is told, where the browser says beforehand how much is coming. */
export function refuseTooLarge(): never {
  return refuse('file-too-large', { limit: Math.floor(settings().uploadLimit / 1024 / 1024) });
}

/** What is said of a file that was taken in a repaired copy. */
const repairNotices: { readonly [R in PdfRepair]: string } = {
  'before-header': 'repaired-before',
  'after-end': 'repaired-after',
  rewritten: 'repaired-table',
};

/** Refuses when the disk or the room of the person or their organization is used up. */
async function needRoom(organization: string, person: string): Promise<void> {
  const { reserveBytes, memberBytes, organizationBytes } = settings();
  const { bavail, bsize } = await statfs(os.tmpdir());
  if (bavail * bsize < reserveBytes) refuse('disk-full');
  const [used] = await inOrganization(
    organization,
    (tx) => tx.sql<{ own: number; all: number }[]>`
      select coalesce(sum(bytes) filter (where uploader = ${person}), 0)::bigint as own, coalesce(sum(bytes), 0)::bigint as all
      from file where organization = ${organization} and uploader is not null`,
  );
  if ((used?.own ?? 0) > memberBytes) refuse('quota-member');
  if ((used?.all ?? 0) > organizationBytes) refuse('quota-organization');
}

/**
 * Takes in a file of any size up to the limit: streamed to a temporary file while it is hashed, told by its content, a PDF
 * read in a child process, then kept for whoever sent it. Nothing is kept of a file that is refused. A PDF that had to be
 * repaired is kept as it came as well, and what is circulated is the repaired copy.
 */
export async function receiveFile(
  organization: string,
  person: string,
  name: string,
  body: ReadableStream<Uint8Array>,
): Promise<StoredFile> {
  await needRoom(organization, person);
  return inTemporaryFolder(async (folder) => {
    const temporary = path.join(folder, 'file');
    const hash = createHash('sha256');
    let bytes = 0;
    const limit = settings().uploadLimit;
    await pipeline(
      Readable.fromWeb(body as WebStream),
      async function* (source: AsyncIterable<Uint8Array>) {
        for await (const piece of source) {
          bytes += piece.length;
          if (bytes > limit) refuseTooLarge();
          hash.update(piece);
          yield piece;
        }
      },
      createWriteStream(temporary, { mode: 0o600 }),
    );
    if (bytes === 0) refuse('empty-file');
    const original = hash.digest('hex');
    const isPdf = await looksLikePdf(temporary);
    const mediaType = isPdf
      ? 'application/pdf'
      : ((await fileTypeFromFile(temporary))?.mime ?? 'application/octet-stream');
    if (/\.pdf$/i.test(name) && !isPdf) refuse('not-what-it-says');
    const plain: StoredFile = { hash: original, bytes, mediaType, facts: {} };
    const read = (file: string) => () => createReadStream(file, { highWaterMark: 256 * 1024 });
    if (!isPdf) {
      await putFile(organization, plain, read(temporary), person);
      return plain;
    }
    const copy = path.join(folder, 'copy');
    const found = await inspect(temporary, copy);
    const facts: FileFacts = {
      pages: found.pages,
      ...(found.prints ? { prints: found.prints } : {}),
      notices: [...found.repaired.map((repair) => repairNotices[repair]), ...found.notices],
      ...(found.noFields ? { noFields: found.noFields } : {}),
    };
    if (found.repaired.length === 0) {
      const file = { ...plain, facts };
      await putFile(organization, file, read(temporary), person);
      return file;
    }
    await putFile(organization, plain, read(temporary), person);
    const repaired = await readFile(copy);
    const file: StoredFile = {
      hash: sha256(repaired),
      bytes: repaired.length,
      mediaType,
      facts: { ...facts, original },
    };
    await putFile(organization, file, read(copy), person);
    return file;
  });
}

/** A PDF may have junk before its header; it is one all the same when the header comes soon. */
async function looksLikePdf(file: string): Promise<boolean> {
  for await (const head of createReadStream(file, { end: 1023 })) return (head as Buffer).includes('%PDF-');
  return false;
}

async function inspect(file: string, repairInto: string): Promise<Extract<Inspection, { ok: true }>> {
  try {
    const found = await inChild<Inspection>('inspect', { path: file, repairInto }, { seconds: 60, megabytes: 1536 });
    if (found.ok) return found;
    return refuse(`pdf-${found.fault satisfies PdfFault}`);
  } catch (error) {
    if (error instanceof ChildFailed) refuse('pdf-too-hard');
    throw error;
  }
}
