import { once } from 'node:events';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { gunzipSync } from 'node:zlib';
import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Asked, Reply } from './reply';

// The thread is stood in for: what matters here is what is asked of it, and what becomes of its reply.
const asked: Asked[] = [];
let next: Reply = { status: 200, body: '{"ok":true,"value":null}', cookies: [] };
vi.mock('./thread', () => ({
  askOperations: async (one: Asked) => {
    asked.push(one);
    return next;
  },
}));

let server: http.Server;
let port = 0;
beforeAll(async () => {
  Object.assign(process.env, {
    AVENDA_MODE: 'real',
    AVENDA_SECRET: 'the secret of the unit tests, 32 characters or more',
    AVENDA_URL: 'https://avenda.marrowfell.example',
    DATABASE_URL: 'postgres://nowhere',
  });
  const { answerOperation } = await import('./http');
  server = http.createServer((request, response) => {
    if (!answerOperation(request, response, '198.51.100.7')) response.writeHead(418).end('the pages');
  });
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  port = (server.address() as AddressInfo).port;
});
afterAll(() => server.close());
beforeEach(() => {
  asked.length = 0;
  next = { status: 200, body: '{"ok":true,"value":null}', cookies: [] };
});

const ours = { origin: 'https://avenda.marrowfell.example' };

async function send(
  method: string,
  path: string,
  headers: http.OutgoingHttpHeaders = {},
  body: (string | Buffer)[] = [],
) {
  const request = http.request({ port, method, path, headers });
  const answered = once(request, 'response') as Promise<[http.IncomingMessage]>;
  for (const piece of body) request.write(piece);
  request.end();
  const [response] = await answered;
  const pieces: Buffer[] = [];
  for await (const piece of response) pieces.push(piece as Buffer);
  return { status: response.statusCode, headers: response.headers, body: Buffer.concat(pieces) };
}
const code = (body: Buffer) => (JSON.parse(body.toString()) as { refusal: { code: string } }).refusal.code;

describe('the entrance of operations', () => {
  it('hands on a command with what our own server knows of the caller', async () => {
    const { status, body, headers } = await send(
      'POST',
      '/do/record.create',
      {
        ...ours,
        cookie: 'other=1; avenda_session=org.secret',
        'user-agent': 'browser',
        'x-forwarded-for': '203.0.113.1',
      },
      ['{"title":"Grip"}'],
    );
    expect({ status, body: body.toString() }).toEqual({ status: 200, body: next.body });
    expect(asked).toEqual([
      {
        name: 'record.create',
        kind: 'command',
        link: null,
        input: '{"title":"Grip"}',
        address: '198.51.100.7',
        agent: 'browser',
        secret: 'org.secret',
      },
    ]);
    expect(headers['cache-control']).toBe('no-store');
    expect(headers['x-content-type-options']).toBe('nosniff');
  });

  it('takes a link’s secret from the link’s own cookie and never from a session', async () => {
    const { linkCookie } = await import('../auth/links');
    const cookie = `avenda_session=org.secret; ${linkCookie('HANDLE')}=code`;
    await send('GET', '/sign/HANDLE/ask/seat.look', { cookie });
    await send('GET', '/sign/HANDLE/ask/seat.look', { cookie: 'avenda_session=org.secret' });
    expect(asked.map(({ link, secret }) => ({ link, secret }))).toEqual([
      { link: 'HANDLE', secret: 'code' },
      { link: 'HANDLE', secret: undefined },
    ]);
  });

  it('reads a query’s input from the address, and takes none for an empty one', async () => {
    const input = '{"text":"Gräfin & co = 100 %"}';
    await send('GET', `/ask/desk.find?${new URLSearchParams({ input })}`);
    await send('GET', '/ask/desk.view');
    expect(asked.map((one) => [one.kind, one.input])).toEqual([
      ['query', input],
      ['query', '{}'],
    ]);
  });

  it('puts letters together that were cut between two pieces of a body', async () => {
    const whole = Buffer.from('{"title":"Grüße – 縄"}');
    const cut = whole.indexOf(Buffer.from('ü')) + 1;
    await send('POST', '/do/record.create', ours, [whole.subarray(0, cut), whole.subarray(cut)]);
    expect(asked[0]?.input).toBe(whole.toString());
  });

  it('leaves every other address to the pages', async () => {
    for (const path of [
      '/',
      '/desk',
      '/do',
      '/do/',
      '/ask/x/y',
      '/sign/HANDLE',
      '/sign/a/b/do/x',
      '/do/../desk',
      '/xdo/a',
    ])
      expect((await send('GET', path)).status, path).toBe(418);
    expect(asked).toEqual([]);
  });

  it('refuses the wrong method, and runs nothing', async () => {
    for (const [method, path, allow] of [
      ['GET', '/do/record.create', 'POST'],
      ['POST', '/ask/desk.view', 'GET'],
      ['DELETE', '/sign/HANDLE/do/seat.decide', 'POST'],
    ] as const) {
      const { status, headers } = await send(method, path, ours);
      expect([status, headers.allow], path).toEqual([405, allow]);
    }
    expect(asked).toEqual([]);
  });

  it('refuses a command from another origin, by either of the two signs, and one that says nothing of itself', async () => {
    for (const headers of [
      { origin: 'https://elsewhere.example' },
      { origin: 'null' },
      { ...ours, 'sec-fetch-site': 'cross-site' },
      { ...ours, 'sec-fetch-site': 'same-site' },
      {},
    ]) {
      const { status, body } = await send('POST', '/do/record.create', headers, ['{}']);
      expect([status, code(body)], JSON.stringify(headers)).toEqual([403, 'other-origin']);
    }
    expect(asked).toEqual([]);
  });

  it('refuses a body that is too large, whether its length is told or not', async () => {
    const piece = Buffer.alloc(1024 * 1024, 0x20);
    const pieces = Array.from({ length: 9 }, () => piece);
    const { status, body } = await send('POST', '/do/draft.saveText', ours, pieces);
    expect([status, code(body)]).toEqual([413, 'too-large']);
    const told = await send('POST', '/do/draft.saveText', { ...ours, 'content-length': 9 * 1024 * 1024 }, pieces);
    expect([told.status, code(told.body)]).toEqual([413, 'too-large']);
    expect(asked).toEqual([]);
  });

  it('sets the cookies of a reply, and packs only long ones, only for who can unpack them', async () => {
    next = {
      status: 200,
      body: JSON.stringify({ ok: true, value: 'x'.repeat(9000) }),
      cookies: ['a=1; Path=/', 'b=2'],
    };
    const plain = await send('GET', '/ask/desk.view');
    expect(plain.headers['set-cookie']).toEqual(['a=1; Path=/', 'b=2']);
    expect(plain.body.toString()).toBe(next.body);
    const packed = await send('GET', '/ask/desk.view', { 'accept-encoding': 'br, gzip' });
    expect(packed.headers['content-encoding']).toBe('gzip');
    expect(packed.body.length).toBeLessThan(500);
    expect(gunzipSync(packed.body).toString()).toBe(next.body);
    next = { status: 404, body: '{}', cookies: [] };
    const short = await send('GET', '/ask/desk.view', { 'accept-encoding': 'gzip' });
    expect([short.status, short.headers['content-encoding'], short.body.toString()]).toEqual([404, undefined, '{}']);
  });
});
