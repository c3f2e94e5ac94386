import { refusedSentences } from '../refused';
import { settings } from '../settings';
import { type Answer, handle, refusedAnswer } from './handle';
import type { Cookie, Operation } from './operation';

/** What is asked of an operation: of the request only plain values, so that it can cross to another thread. */
export interface Asked {
  readonly name: string;
  readonly kind: Operation['kind'];
  /** The handle of the link it came through; null inside. */
  readonly link: string | null;
  /** The input as the JSON text that was sent. */
  readonly input: string;
  readonly address: string;
  readonly agent: string;
  /** The session's cookie, or for a link the code in the link's own. */
  readonly secret: string | undefined;
}

/** What goes back: an HTTP status, the JSON text of the answer, and the cookies to set. */
export interface Reply {
  readonly status: number;
  readonly body: string;
  readonly cookies: readonly string[];
}

/** The reply to an answer that sets no cookie. */
export function replyOf(answer: Answer): Reply {
  const body = answer.ok ? { ok: true, value: answer.value } : { ok: false, refusal: answer.refusal };
  return { status: answer.status, body: JSON.stringify(body), cookies: [] };
}

/** The reply that refuses with one of our sentences. */
export function refusedReply(code: keyof typeof refusedSentences): Reply {
  return replyOf(refusedAnswer(code, refusedSentences[code]));
}

/** Runs the operation that is asked for. Never throws: a fault is a reply too. */
export async function reply(operations: ReadonlyMap<string, Operation>, asked: Asked): Promise<Reply> {
  const operation = operations.get(asked.name);
  const wanted = asked.link === null ? operation?.where !== 'link' : operation?.where === 'link';
  if (!operation || operation.kind !== asked.kind || !wanted) return refusedReply('not-found');
  let input: unknown;
  try {
    input = JSON.parse(asked.input);
  } catch {
    return refusedReply('bad-input');
  }
  const cookies: string[] = [];
  const answer = await handle(operation, input, {
    address: asked.address,
    agent: asked.agent,
    sessionCookie: asked.secret,
    handle: asked.link,
    setCookie: (cookie) => cookies.push(cookieText(cookie)),
  });
  return { ...replyOf(answer), cookies: answer.ok ? cookies : [] };
}

/** A cookie as its header says it (RFC 6265): never for scripts, and over TLS only where we are served so. */
export function cookieText({ name, value, path, maxAge }: Cookie): string {
  const secure = settings().url.startsWith('https:') ? '; Secure' : '';
  return `${name}=${value}; Path=${path}; Max-Age=${maxAge}; HttpOnly; SameSite=Lax${secure}`;
}
