import type { ServedFile } from '@/server/files/access';
import { readRange } from '@/server/files/store';
import { refusedResponse } from './edge';

/**
 * Serves a kept file, whole or the range that was asked for (RFC 9110, 14), never as something the browser would run.
 * A browser may keep it for this person, but asks each time whether they still may see it; then its bytes are not sent
 * again (RFC 9110, 13.1.2).
 */
export function serveFile(request: Request, organization: string, served: ServedFile | null): Response {
  if (!served) return refusedResponse('not-found');
  const { file, name } = served;
  const shown = file.mediaType === 'application/pdf' || file.mediaType.startsWith('image/');
  const headers = new Headers({
    'content-type': shown ? file.mediaType : 'application/octet-stream',
    'content-disposition': `${shown && !new URL(request.url).searchParams.has('download') ? 'inline' : 'attachment'}; filename*=UTF-8''${encodeURIComponent(name).replace(/['()*]/g, (sign) => `%${sign.charCodeAt(0).toString(16)}`)}`,
    'x-content-type-options': 'nosniff',
    'content-security-policy': "sandbox; default-src 'none'",
    'cache-control': 'private, no-cache',
    'accept-ranges': 'bytes',
    etag: `"${file.hash}"`,
    'referrer-policy': 'no-referrer',
    'cross-origin-resource-policy': 'same-origin',
  });
  if (request.headers.get('if-none-match')?.includes(`"${file.hash}"`))
    return new Response(null, { status: 304, headers });
  const range = /^bytes=(\d*)-(\d*)$/.exec(request.headers.get('range') ?? '');
  let from = 0;
  let to = file.bytes;
  let status = 200;
  if (range && (range[1] || range[2])) {
    from = range[1] ? Number(range[1]) : Math.max(0, file.bytes - Number(range[2]));
    to = range[1] && range[2] ? Math.min(file.bytes, Number(range[2]) + 1) : file.bytes;
    if (from >= to) return new Response(null, { status: 416, headers: { 'content-range': `bytes */${file.bytes}` } });
    status = 206;
    headers.set('content-range', `bytes ${from}-${to - 1}/${file.bytes}`);
  }
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
  return new Response(body, { status, headers });
}
