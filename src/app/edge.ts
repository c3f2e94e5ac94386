import type { NextRequest } from 'next/server';
import { linkCookie } from '@/server/auth/links';
import { sessionCookie } from '@/server/auth/sessions';
import { type Reply, refusedReply } from '@/server/operations/reply';
import type { refusedSentences } from '@/server/refused';

/** A reply as the framework sends it. */
export function toResponse({ status, body }: Reply): Response {
  return new Response(body, {
    status,
    headers: { 'content-type': 'application/json', 'cache-control': 'no-store' },
  });
}

export function refusedResponse(code: keyof typeof refusedSentences): Response {
  return toResponse(refusedReply(code));
}

/** What a browser shows to be let in: its session's cookie, or for a link the code in the link's own. */
export function secretOf(request: NextRequest, link: string | null = null): string | undefined {
  return request.cookies.get(link === null ? sessionCookie : linkCookie(link))?.value;
}
