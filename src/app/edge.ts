import { cookies } from 'next/headers';
import { linkCookie } from '@/server/auth/links';
import { sessionCookie } from '@/server/auth/sessions';
import { type Answer, handle, refusedAnswer } from '@/server/operations/handle';
import type { Caller, Cookie, Operation } from '@/server/operations/operation';
import { registry } from '@/server/operations/registry';
import { refusedSentences } from '@/server/refused';
import { settings } from '@/server/settings';
import { simulatorOperations } from '@/simulators/operations';

/** Every operation that can be reached over HTTP: the server's own and, in the demonstration, the simulators'. */
export const operations: ReadonlyMap<string, Operation> = new Map([
  ...registry,
  ...simulatorOperations.map((operation) => [operation.name, operation] as const),
]);

const bodyLimit = 8 * 1024 * 1024;

/** Whether a command comes from our own pages: by its Origin, and by what the browser says of the site. */
export function fromOurPages(request: Request): boolean {
  const site = request.headers.get('sec-fetch-site');
  if (site && site !== 'same-origin') return false;
  const origin = request.headers.get('origin');
  if (!origin) return site === 'same-origin';
  try {
    const own = new Set([new URL(settings().url).host, request.headers.get('host')]);
    return own.has(new URL(origin).host);
  } catch {
    return false;
  }
}

export function toResponse(answer: Answer): Response {
  const body = answer.ok ? { ok: true, value: answer.value } : { ok: false, refusal: answer.refusal };
  return Response.json(body, { status: answer.status, headers: { 'cache-control': 'no-store' } });
}

export function refusedResponse(code: keyof typeof refusedSentences): Response {
  return toResponse(refusedAnswer(code, refusedSentences[code]));
}

/** Who calls, as our own server saw it. For a link the secret is the code in its cookie. */
export async function callerOf(request: Request, link: string | null, set: (cookie: Cookie) => void): Promise<Caller> {
  const jar = await cookies();
  return {
    address: request.headers.get('x-avenda-address') ?? '',
    agent: request.headers.get('user-agent') ?? '',
    sessionCookie: jar.get(link === null ? sessionCookie : linkCookie(link))?.value,
    handle: link,
    setCookie: set,
  };
}

/** Runs an operation for a request and gives its HTTP response. */
export async function respond(
  request: Request,
  name: string,
  kind: Operation['kind'],
  link: string | null,
): Promise<Response> {
  const operation = operations.get(name);
  const wanted = link === null ? operation?.where !== 'link' : operation?.where === 'link';
  if (!operation || operation.kind !== kind || !wanted) return refusedResponse('not-found');
  let input: unknown;
  if (kind === 'command') {
    if (!fromOurPages(request)) return refusedResponse('other-origin');
    if (Number(request.headers.get('content-length') ?? 0) > bodyLimit) return refusedResponse('too-large');
    const text = await request.text();
    if (text.length > bodyLimit) return refusedResponse('too-large');
    input = parsed(text);
  } else input = parsed(new URL(request.url).searchParams.get('input') ?? '{}');
  if (input === undefined) return refusedResponse('bad-input');
  const set: Cookie[] = [];
  const answer = await handle(operation, input, await callerOf(request, link, (cookie) => set.push(cookie)));
  const response = toResponse(answer);
  if (answer.ok) for (const cookie of set) response.headers.append('set-cookie', cookieText(cookie));
  return response;
}

export function cookieText({ name, value, path, maxAge }: Cookie): string {
  const secure = settings().url.startsWith('https:') ? '; Secure' : '';
  return `${name}=${value}; Path=${path}; Max-Age=${maxAge}; HttpOnly; SameSite=Lax${secure}`;
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
