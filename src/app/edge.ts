import type { NextRequest } from 'next/server';
import type { RefusalCode } from '@/core/refusals';
import { everyOperation } from '@/entry/operations';
import { linkCookie } from '@/server/auth/links';
import { sessionCookie } from '@/server/auth/sessions';
import { refusedWith } from '@/server/operations/handle';
import { answerRequest, responseOf } from '@/server/operations/http';
import type { Operation } from '@/server/operations/operation';
import { Refused } from '@/server/refused';

/** Answers a request for an operation, in process. `link` is the handle of the link it came through. */
export function answer(
  request: NextRequest,
  kind: Operation['kind'],
  name: string,
  link: string | null = null,
): Promise<Response> {
  const cookie = (of: string) => request.cookies.get(of)?.value;
  return answerRequest(everyOperation, request, cookie, { name, kind, link });
}

export function refusedResponse(code: RefusalCode): Response {
  return responseOf(refusedWith(code));
}

/** What `work` answers, or the refusal that it met: in plain words where a browser shows it in a window of its own. */
export async function orRefused(request: Request, work: () => Promise<Response>): Promise<Response> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    const refused = refusedResponse(error.refusal.code);
    if (request.headers.get('sec-fetch-dest') !== 'document') return refused;
    const headers = { 'content-type': 'text/plain; charset=utf-8', 'cache-control': 'no-store' };
    return new Response(error.message, { status: refused.status, headers });
  }
}

/** What a browser shows to be let in: its session's cookie, or for a link the code in the link's own. */
export function secretOf(request: NextRequest, link: string | null = null): string | undefined {
  return request.cookies.get(link === null ? sessionCookie : linkCookie(link))?.value;
}

/** Leads a browser to another page of ours (RFC 9110, 15.4.4). */
export function redirectTo(path: string): Response {
  return new Response(null, { status: 303, headers: { location: path, 'cache-control': 'no-store' } });
}
