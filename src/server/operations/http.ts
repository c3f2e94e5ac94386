import type { IncomingMessage, ServerResponse } from 'node:http';
import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import { parseCookie } from 'cookie';
import { linkCookie } from '../auth/links';
import { sessionCookie } from '../auth/sessions';
import { settings } from '../settings';
import { fromOurPages } from './origin';
import { type Reply, refusedReply } from './reply';
import { askOperations } from './thread';

/** POST /do/NAME for commands, GET /ask/NAME?input=JSON for queries; below /sign/HANDLE through a link. */
const field = /^(?:\/sign\/([A-Za-z0-9_-]{1,64}))?\/(do|ask)\/([A-Za-z.]{1,64})(?:\?(.*))?$/;

const bodyLimit = 8 * 1024 * 1024;
const packed = promisify(gzip);

/**
 * Answers a request that is for an operation; gives false, having done nothing, when it is for something else. It
 * stands before the framework, whose own handler would cost more than the whole command. `address` is the client's.
 */
export function answerOperation(request: IncomingMessage, response: ServerResponse, address: string): boolean {
  const [, link = null, verb, name, query] = field.exec(request.url ?? '') ?? [];
  if (!verb || !name) return false;
  const command = verb === 'do';
  const { headers } = request;
  const answer = (reply: Reply): void => void send(request, response, reply);
  if (request.method !== (command ? 'POST' : 'GET')) {
    response.writeHead(405, { allow: command ? 'POST' : 'GET' }).end();
    return true;
  }
  const ask = (input: string): void => {
    const secret = parseCookie(headers.cookie ?? '')[link === null ? sessionCookie : linkCookie(link)];
    const agent = headers['user-agent'] ?? '';
    void askOperations({ name, kind: command ? 'command' : 'query', link, input, address, agent, secret }).then(answer);
  };
  if (!command) {
    ask(new URLSearchParams(query).get('input') ?? '{}');
    return true;
  }
  const { origin, host } = headers;
  const site = headers['sec-fetch-site'];
  if (!fromOurPages({ origin, host, site: typeof site === 'string' ? site : null }, settings().url))
    answer(refusedReply('other-origin'));
  else
    wholeBody(request, (body) => {
      if (body === null) answer(refusedReply('too-large'));
      else ask(body);
    });
  return true;
}

/** Collects a body and gives it as text, or null as soon as it is too large. Nothing when the client went away. */
function wholeBody(request: IncomingMessage, give: (body: string | null) => void): void {
  const pieces: Buffer[] = [];
  let size = 0;
  request.on('data', (piece: Buffer) => {
    if (size > bodyLimit) return;
    size += piece.length;
    if (size > bodyLimit) give(null);
    else pieces.push(piece);
  });
  request.on('end', () => {
    if (size <= bodyLimit) give(Buffer.concat(pieces).toString('utf8'));
  });
}

/** Long answers are packed for browsers that say they can unpack them. */
async function send(
  request: IncomingMessage,
  response: ServerResponse,
  { status, body, cookies }: Reply,
): Promise<void> {
  const pack = body.length > 4096 && /\bgzip\b/.test(String(request.headers['accept-encoding'] ?? ''));
  const content = pack ? await packed(body) : Buffer.from(body);
  response.writeHead(status, {
    'content-type': 'application/json',
    'content-length': content.length,
    'cache-control': 'no-store',
    'x-content-type-options': 'nosniff',
    'referrer-policy': 'no-referrer',
    vary: 'accept-encoding',
    ...(pack ? { 'content-encoding': 'gzip' } : {}),
    ...(cookies.length > 0 ? { 'set-cookie': [...cookies] } : {}),
  });
  response.end(content);
}
