import { create as contentDisposition } from 'content-disposition';
import parseRange from 'range-parser';
import type { ServedFile, Wanted } from '@/server/files/access';
import { readRange } from '@/server/files/store';
import { refusedResponse } from './edge';

/** Never run, never guessed at, never taken in by another site's page. */
const guarded = {
  'x-content-type-options': 'nosniff',
  'content-security-policy': "sandbox; default-src 'none'",
  'referrer-policy': 'no-referrer',
  'cross-origin-resource-policy': 'same-origin',
} as const;

/**
 * What a request for a file wants of it. A file opened in a window of its own has left our pages, so that is having it
 * (Fetch Metadata, Sec-Fetch-Dest).
 */
export function wantedOf(request: Request): Wanted {
  const asks = new URL(request.url).searchParams;
  if (asks.has('print')) return 'print';
  const alone = !['empty', 'image', null].includes(request.headers.get('sec-fetch-dest'));
  return asks.has('download') || alone ? 'download' : 'show';
}

/** Serves a PDF that was made for this request, and is kept nowhere. */
export function serveBytes(bytes: Buffer, name: string): Response {
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: {
      ...guarded,
      'content-type': 'application/pdf',
      'content-disposition': contentDisposition(name, { type: 'inline' }),
      'cache-control': 'no-store',
    },
  });
}

/**
 * Serves a kept file, whole or the range that was asked for (RFC 9110, 14), never as something the browser would run.
 * A browser may keep it for this person, but asks each time whether they still may see it; then its bytes are not sent
 * again (RFC 9110, 13.1.2).
 */
export function serveFile(
  request: Request,
  organization: string,
  served: Pick<ServedFile, 'file' | 'name'> | null,
): Response {
  if (!served) return refusedResponse('not-found');
  const { file, name } = served;
  const shown = file.mediaType === 'application/pdf' || /^image\/(png|jpeg|gif|webp)$/.test(file.mediaType);
  const inline = shown && !new URL(request.url).searchParams.has('download');
  const headers = new Headers({
    ...guarded,
    'content-type': shown ? file.mediaType : 'application/octet-stream',
    'content-disposition': contentDisposition(name, { type: inline ? 'inline' : 'attachment' }),
    'cache-control': 'private, no-cache',
    'accept-ranges': 'bytes',
    etag: `"${file.hash}"`,
  });
  if (request.headers.get('if-none-match')?.includes(`"${file.hash}"`))
    return new Response(null, { status: 304, headers });
  const asked = request.headers.get('range');
  const ranges = asked ? parseRange(file.bytes, asked, { combine: true }) : null;
  if (ranges === -1) return new Response(null, { status: 416, headers: { 'content-range': `bytes */${file.bytes}` } });
  // A range that cannot be read, or several, may be answered with the whole (RFC 9110, 14.2).
  const range = Array.isArray(ranges) && ranges.type === 'bytes' && ranges.length === 1 ? ranges[0] : undefined;
  const [from, to] = range ? [range.start, range.end + 1] : [0, file.bytes];
  if (range) headers.set('content-range', `bytes ${from}-${to - 1}/${file.bytes}`);
  headers.set('content-length', String(to - from));
  const pieces = readRange(organization, file.hash, from, to);
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { value, done } = await pieces.next();
      if (done) controller.close();
      else controller.enqueue(value);
    },
    async cancel() {
      await pieces.return(undefined);
    },
  });
  return new Response(body, { status: range ? 206 : 200, headers });
}
