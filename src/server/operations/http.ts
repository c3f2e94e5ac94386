import { stringifySetCookie } from 'cookie';
import { linkCookie } from '../auth/links';
import { asMember, sessionCookie } from '../auth/sessions';
import { settings } from '../settings';
import { type Answer, handle, refusedWith } from './handle';
import { type Caller, type Cookie, type Credential, type Operation, sessionOf } from './operation';
import { fromOurPages } from './origin';

/** The largest bodies where an operation names none: before anybody is known, through a link, for members. */
const usualLimits = { anyone: 16 * 1024, link: 1024 * 1024, member: 256 * 1024 } as const;
/** The largest body that an operation takes, in bytes. */
export function limitOf({ limit, who }: Pick<Operation, 'limit' | 'who'>): number {
  return limit ?? usualLimits[who];
}

/** From here on the session is looked at before the body is read. */
const large = 64 * 1024;
const bodySeconds = 30;
/** How many operations may be under way in one process; whoever comes then is asked to come again. */
const most = 256;
let underWay = 0;

/** Reads a body within bounds of bytes and time; gives null when it is larger, undefined when it does not come. */
async function boundedBody(request: Request, bytes: number, seconds: number): Promise<string | null | undefined> {
  if (Number(request.headers.get('content-length') ?? 0) > bytes) return null;
  if (!request.body) return '';
  const reader = request.body.getReader();
  let tooLate = false;
  const late = setTimeout(() => {
    tooLate = true;
    void reader.cancel();
  }, seconds * 1000);
  const pieces: Uint8Array[] = [];
  try {
    for (let size = 0; ; ) {
      const { done, value } = await reader.read();
      // What was cancelled ends as if it were whole.
      if (done) return tooLate ? undefined : Buffer.concat(pieces).toString('utf8');
      size += value.length;
      if (size > bytes) {
        void reader.cancel();
        return null;
      }
      pieces.push(value);
    }
  } catch {
    return undefined;
  } finally {
    clearTimeout(late);
  }
}

/** An answer as it goes over HTTP. */
export function responseOf(answer: Answer, cookies: readonly string[] = []): Response {
  const body = answer.ok
    ? { ok: true, value: answer.value, changed: answer.changed }
    : { ok: false, refusal: answer.refusal };
  const headers = new Headers({
    'content-type': 'application/json',
    'cache-control': 'no-store',
    'x-content-type-options': 'nosniff',
    'referrer-policy': 'no-referrer',
  });
  if (answer.status === 503) headers.set('retry-after', '2');
  for (const cookie of cookies) headers.append('set-cookie', cookie);
  return new Response(JSON.stringify(body), { status: answer.status, headers });
}

/** A cookie as its header says it (RFC 6265): never for scripts, and over TLS only where we are served so. */
export function cookieText({ name, value, path, maxAge }: Cookie): string {
  const secure = settings().url.startsWith('https:');
  return stringifySetCookie({
    name,
    value,
    path,
    maxAge,
    httpOnly: true,
    sameSite: 'lax',
    ...(secure ? { secure } : {}),
  });
}

/** The header in which our own server hands on the client's address; what a client says in it never arrives. */
export const addressHeader = 'x-avenda-address';

interface Asked {
  readonly name: string;
  readonly kind: Operation['kind'];
  /** The handle of the link it came through; null inside. */
  readonly link: string | null;
}

/** Answers a request for an operation of these. Never throws: a fault is an answer too. */
export async function answerRequest(
  operations: ReadonlyMap<string, Operation>,
  request: Request,
  cookie: (name: string) => string | undefined,
  { name, kind, link }: Asked,
): Promise<Response> {
  const { headers } = request;
  const operation = operations.get(name);
  const there = link === null ? operation?.who !== 'link' : operation?.who === 'link';
  if (!operation || operation.kind !== kind || !there) return responseOf(refusedWith('not-found'));
  const by = credentialOf(headers.get('authorization'), cookie, link);
  // A token comes with a program; cookies come with any page that a browser shows.
  if (
    by.kind !== 'token' &&
    !fromOurPages({ origin: headers.get('origin'), site: headers.get('sec-fetch-site') }, settings().url)
  )
    return responseOf(refusedWith('other-origin'));
  if (underWay >= most) return responseOf(refusedWith('busy'));
  underWay += 1;
  try {
    const limit = limitOf(operation);
    const length = headers.get('content-length');
    if (operation.who === 'member' && limit > large && (length === null || Number(length) > large)) {
      const member = await asMember(sessionOf({ by }), async () => true);
      if (!member) return responseOf(refusedWith('signed-out'));
    }
    const text = await boundedBody(request, limit, bodySeconds);
    if (text === null) return responseOf(refusedWith('too-large'));
    const input = text === undefined ? undefined : parsed(text);
    if (input === undefined) return responseOf(refusedWith('bad-input'));
    const cookies: string[] = [];
    const caller: Caller = {
      address: headers.get(addressHeader) ?? '',
      agent: headers.get('user-agent') ?? '',
      by,
      page: headers.get('x-page')?.slice(0, 64),
      setCookie: (given) => cookies.push(cookieText(given)),
    };
    const answer = await handle(operation, input, caller);
    return responseOf(answer, answer.ok ? cookies : []);
  } finally {
    underWay -= 1;
  }
}

/** By what a request is let in. A token (RFC 6750, 2.1) comes before cookies, which are not looked at then. */
function credentialOf(
  authorization: string | null,
  cookie: (name: string) => string | undefined,
  link: string | null,
): Credential {
  const token = /^Bearer ([\w.~+/-]{1,200}=*)$/i.exec(authorization ?? '')?.[1];
  if (token !== undefined) return { kind: 'token', secret: token };
  return link === null
    ? { kind: 'session', secret: cookie(sessionCookie) }
    : { kind: 'link', handle: link, secret: cookie(linkCookie(link)) };
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
