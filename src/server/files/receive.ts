import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { open } from 'node:fs/promises';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream as WebStream } from 'node:stream/web';
import type { Inspection, PdfFault } from '../children/inspectPdf';
import { ChildFailed, inChild } from '../children/run';
import { Refused } from '../refused';
import { settings } from '../settings';
import { putFile, type StoredFile } from './store';
import { inTemporaryFolder } from './temporary';

/** Why a file was not taken, in a sentence. */
export const uploadSentences = {
  'too-large': 'This file is larger than the {limit} MB that are allowed here.',
  'empty-file': 'This file is empty.',
  'not-what-it-says': 'This file is called a PDF, but it is none.',
  'pdf-encrypted': 'This PDF is locked with a password. Please save it without one and send it again.',
  'pdf-broken': 'This PDF is damaged, or readers disagree about its pages. Please save it afresh and send it again.',
  'pdf-empty': 'This PDF has no pages.',
  'pdf-too-hard': 'This PDF takes too long to read. Please save it afresh, or smaller, and send it again.',
} as const;

function refuseUpload(code: keyof typeof uploadSentences): never {
  const limit = Math.floor(settings().uploadLimit / 1024 / 1024);
  throw new Refused(code, uploadSentences[code].replace('{limit}', String(limit)), { limit });
}

const faults: { readonly [F in PdfFault]: keyof typeof uploadSentences } = {
  encrypted: 'pdf-encrypted',
  broken: 'pdf-broken',
  empty: 'pdf-empty',
};

/** The kinds of file told by their first bytes; everything else is just bytes. */
function mediaTypeOf(head: Buffer): string {
  const starts = (...bytes: number[]) => bytes.every((byte, i) => head[i] === byte);
  if (head.subarray(0, 5).toString('latin1') === '%PDF-') return 'application/pdf';
  if (starts(0x89, 0x50, 0x4e, 0x47)) return 'image/png';
  if (starts(0xff, 0xd8, 0xff)) return 'image/jpeg';
  if (starts(0x50, 0x4b, 0x03, 0x04)) return 'application/zip';
  return 'application/octet-stream';
}

/**
 * Takes in a file of any size up to the limit: streamed to a temporary file while it is hashed, told by its content,
 * a PDF read in a child process, then kept. Nothing is kept of a file that is refused.
 */
export async function receiveFile(
  organization: string,
  name: string,
  body: ReadableStream<Uint8Array>,
): Promise<StoredFile> {
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
          if (bytes > limit) refuseUpload('too-large');
          hash.update(piece);
          yield piece;
        }
      },
      createWriteStream(temporary, { mode: 0o600 }),
    );
    if (bytes === 0) refuseUpload('empty-file');
    const handle = await open(temporary);
    const head = Buffer.alloc(16);
    await handle.read(head, 0, 16, 0);
    await handle.close();
    const mediaType = mediaTypeOf(head);
    if (/\.pdf$/i.test(name) && mediaType !== 'application/pdf') refuseUpload('not-what-it-says');
    const facts = mediaType === 'application/pdf' ? { pages: await pagesOf(temporary) } : {};
    const file: StoredFile = { hash: hash.digest('hex'), bytes, mediaType, facts };
    await putFile(organization, file, () => createReadStream(temporary, { highWaterMark: 256 * 1024 }));
    return file;
  });
}

async function pagesOf(temporary: string): Promise<readonly { width: number; height: number }[]> {
  try {
    const found = await inChild<Inspection>(
      'inspect',
      { path: temporary, growing: true },
      { seconds: 60, megabytes: 1536 },
    );
    if (!found.ok) refuseUpload(faults[found.fault]);
    return found.pages;
  } catch (error) {
    if (error instanceof ChildFailed) refuseUpload('pdf-too-hard');
    throw error;
  }
}
