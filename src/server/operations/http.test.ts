import Joi from 'joi';
import { afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Answer } from './handle';
import { piece, shape, text } from './input';
import { anyoneOperation, type Credential, memberOperation, type Operation } from './operation';

const own = 'https://avenda.marrowfell.example';
/** Whatever reached an operation. */
const ran: { input: object; address: string; agent: string; by: Credential; page: string | undefined }[] = [];
let hold: Promise<void> | null = null;

const echo = anyoneOperation({
  name: 'test.echo',
  kind: 'command',
  open: 'it stands in for an operation before anybody is known',
  input: shape({ title: text(400_000) }),
  run: async (input, { address, agent, by, page, setCookie }) => {
    ran.push({ input, address, agent, by, page });
    await hold;
    if (input.title === 'cookie') setCookie({ name: 'avenda_session', value: 'a.b', path: '/', maxAge: 60 });
    if (input.title === 'fault') throw new Error('a secret of the house');
    return { title: input.title };
  },
});
const look = anyoneOperation({
  name: 'test.look',
  kind: 'query',
  open: 'it stands in for a question before anybody is known',
  input: shape({ title: text(200) }),
  run: async (input) => input.title,
});
/** They take whatever comes, up to one megabyte. */
const takers = (['command', 'query'] as const).map((kind) =>
  anyoneOperation({
    name: `test.${kind}`,
    kind,
    limit: 1024 * 1024,
    open: 'it stands in for an operation that takes whatever comes',
    input: shape({ any: piece<unknown>(Joi.any()) }),
    run: async () => 'taken',
  }),
);
const large = memberOperation({
  name: 'test.large',
  kind: 'command',
  limit: 8 * 1024 * 1024,
  input: shape({ title: text(400_000) }),
  claim: () => null,
  run: async () => null,
});
const operations: ReadonlyMap<string, Operation> = new Map(
  [echo, look, ...takers, large].map((operation) => [operation.name, operation as unknown as Operation]),
);

let answerRequest: typeof import('./http').answerRequest;
beforeAll(async () => {
  Object.assign(process.env, {
    AVENDA_MODE: 'real',
    AVENDA_SECRET: 'the secret of the unit tests, 32 characters or more',
    AVENDA_URL: own,
    DATABASE_URL: 'postgres://nowhere',
    AVENDA_LOG: 'silent',
  });
  ({ answerRequest } = await import('./http'));
});
afterEach(() => {
  ran.length = 0;
  hold = null;
  vi.useRealTimers();
});

type Body = ConstructorParameters<typeof Request>[1] extends { body?: infer B } | undefined ? B : never;
async function put(
  name: string,
  body: Body,
  headers: Record<string, string> = {},
  kind: 'command' | 'query' = 'command',
) {
  const request = new Request(`http://inside/do/${name}`, {
    method: 'POST',
    body,
    headers: { origin: own, ...headers },
    duplex: 'half',
  } as RequestInit);
  const response = await answerRequest(operations, request, () => undefined, { name, kind, link: null });
  const answer = (await response.json()) as Answer;
  return { status: response.status, code: answer.ok ? 'ok' : answer.refusal.code, answer, headers: response.headers };
}

function streamOf(pieces: readonly Uint8Array[]): ReadableStream<Uint8Array> {
  return new ReadableStream({
    start: (stream) => {
      for (const piece of pieces) stream.enqueue(piece);
      stream.close();
    },
  });
}

describe('the entrance of operations', () => {
  it('hands on a command with what our own server knows of the caller, and answers nothing that is kept', async () => {
    const { answer, headers } = await put('test.echo', '{"title":"Grip"}', {
      'user-agent': 'browser',
      'x-avenda-address': '198.51.100.7',
      'x-forwarded-for': '203.0.113.1',
      'x-page': 'p'.repeat(100),
    });
    expect(answer).toEqual({ ok: true, value: { title: 'Grip' }, changed: [] });
    expect(ran).toEqual([
      {
        input: { title: 'Grip' },
        address: '198.51.100.7',
        agent: 'browser',
        by: { kind: 'session', secret: undefined },
        page: 'p'.repeat(64),
      },
    ]);
    expect(headers.get('cache-control')).toBe('no-store');
    expect(headers.get('x-content-type-options')).toBe('nosniff');
  });

  it('sets cookies that no script reads, only over TLS, and none with a refusal', async () => {
    const { headers } = await put('test.echo', '{"title":"cookie"}');
    expect(headers.get('set-cookie')).toBe('avenda_session=a.b; Max-Age=60; Path=/; HttpOnly; Secure; SameSite=Lax');
  });

  it('is let in by a token in its head, which comes with a program from anywhere and before any cookie', async () => {
    const authorization = 'Bearer abc.DEF-123~+/=';
    const { status } = await put('test.echo', '{"title":"Grip"}', {
      authorization,
      origin: 'https://elsewhere.example',
    });
    expect(status).toBe(200);
    expect(ran.map(({ by }) => by)).toEqual([{ kind: 'token', secret: 'abc.DEF-123~+/=' }]);
    const other = await put('test.echo', '{"title":"Grip"}', {
      authorization: 'Basic abc',
      origin: 'https://elsewhere.example',
    });
    expect(other.answer).toMatchObject({ ok: false, refusal: { code: 'other-origin' } });
  });

  it('keeps to itself what went wrong inside', async () => {
    const { status, answer } = await put('test.echo', '{"title":"fault"}');
    expect(status).toBe(500);
    expect(JSON.stringify(answer)).not.toContain('secret of the house');
  });

  it.each([
    ['test.echo', 'command'],
    ['test.look', 'query'],
  ] as const)(
    'refuses %s from another origin, by either of the two signs, and where nothing is said of it',
    async (name, kind) => {
      for (const headers of [
        { origin: 'https://elsewhere.example' },
        { origin: 'null' },
        { 'sec-fetch-site': 'cross-site' },
        { 'sec-fetch-site': 'same-site' },
        { origin: '' },
      ])
        expect((await put(name, '{"title":"x"}', headers as unknown as Record<string, string>, kind)).code).toBe(
          'other-origin',
        );
      expect(ran).toEqual([]);
      expect((await put(name, '{"title":"x"}', {}, kind)).code).toBe('ok');
    },
  );

  it('knows an operation by its name, its kind and its caller, and no other', async () => {
    for (const [name, kind] of [
      ['test.none', 'command'],
      ['test.look', 'command'],
      ['test.echo', 'query'],
      ['toString', 'command'],
    ] as const)
      expect((await put(name, '{"title":"x"}', {}, kind)).code, name).toBe('not-found');
  });

  it('reads no more of a body than its operation takes, whether its length is said or not', async () => {
    const body = JSON.stringify({ title: 'x'.repeat(16 * 1024) });
    expect((await put('test.echo', body)).code).toBe('too-large');
    let pulled = 0;
    const endless = () =>
      new ReadableStream<Uint8Array>({
        pull: (stream) => {
          pulled += 1;
          stream.enqueue(new Uint8Array(4096).fill(120));
        },
      });
    expect((await put('test.echo', endless())).code).toBe('too-large');
    expect(pulled).toBeLessThan(10);
    expect(ran).toEqual([]);
    const fits = JSON.stringify({ title: 'x'.repeat(16 * 1024 - 12) });
    expect((await put('test.echo', fits)).code).toBe('ok');
  });

  it('looks at the session before it reads a large body, also where its length is not said', async () => {
    let pulled = 0;
    const body = () =>
      new ReadableStream<Uint8Array>(
        {
          pull: (stream) => {
            pulled += 1;
            if (pulled > 500) stream.close();
            else stream.enqueue(new Uint8Array(4096).fill(32));
          },
        },
        { highWaterMark: 0 },
      );
    expect((await put('test.large', body())).code).toBe('signed-out');
    expect((await put('test.large', body(), { 'content-length': '2000000' })).code).toBe('signed-out');
    expect(pulled).toBe(0);
  });

  it('gives up a body that does not come, and does not take its beginning for the whole', async () => {
    vi.useFakeTimers();
    const slow = new ReadableStream<Uint8Array>({
      start: (stream) => stream.enqueue(Buffer.from('{"title":"half"}')),
    });
    const answered = put('test.echo', slow);
    await vi.advanceTimersByTimeAsync(31_000);
    expect((await answered).code).toBe('bad-input');
    expect(ran).toEqual([]);
  });

  it.each(['command', 'query'] as const)('bounds the input of a %s by bytes, depth, keys and time', async (kind) => {
    const name = `test.${kind}`;
    const takes = async (any: string, headers = {}) => (await put(name, `{"any":${any}}`, headers, kind)).code;
    expect(await takes(`${'['.repeat(40)}${']'.repeat(40)}`)).toBe('too-large');
    expect(await takes(`[${'0,'.repeat(400_000)}0]`)).toBe('too-large');
    expect(await takes(`"${'x'.repeat(5 * 1024 * 1024)}"`)).toBe('too-large');
    expect(await takes('"x"', { 'content-length': String(5 * 1024 * 1024) })).toBe('too-large');
    expect(await takes('[[1],{"a":2}]')).toBe('ok');
    vi.useFakeTimers();
    const stalls = new ReadableStream<Uint8Array>({ start: (stream) => stream.enqueue(Buffer.from('{"any":1}')) });
    const answered = put(name, stalls, {}, kind);
    await vi.advanceTimersByTimeAsync(31_000);
    expect((await answered).code).toBe('bad-input');
  });

  it('takes text in one form, and refuses what cannot be kept', async () => {
    await put('test.echo', JSON.stringify({ title: 'Gra\u0308fin' }));
    expect(ran[0]?.input).toEqual({ title: 'Gräfin' });
    for (const title of ['a\u0000b', '\ud800', 'x\udc00y']) {
      const { code, status } = await put('test.echo', JSON.stringify({ title }));
      expect([code, status]).toEqual(['unwritable-text', 422]);
    }
    expect((await put('test.echo', 'not json')).code).toBe('bad-input');
    expect((await put('test.echo', '{"title":"x","__proto__":{"a":1}}')).code).not.toBe('fault');
  });

  it('puts letters together that were cut between two pieces of a body', async () => {
    const whole = Buffer.from('{"title":"Grüße – 縄"}');
    const cut = whole.indexOf(Buffer.from('ü')) + 1;
    const pieces = [whole.subarray(0, cut), whole.subarray(cut)];
    await put('test.echo', streamOf(pieces));
    expect(ran[0]?.input).toEqual({ title: 'Grüße – 縄' });
  });

  it('asks to come again when too much is under way, with when', async () => {
    let release = () => {};
    hold = new Promise((resolve) => {
      release = resolve;
    });
    const many = Array.from({ length: 256 }, () => put('test.echo', '{"title":"x"}'));
    await expect.poll(() => ran.length).toBe(256);
    const { code, status, headers } = await put('test.echo', '{"title":"x"}');
    expect([code, status, headers.get('retry-after')]).toEqual(['busy', 503, '2']);
    release();
    expect((await Promise.all(many)).every((one) => one.code === 'ok')).toBe(true);
    expect((await put('test.echo', '{"title":"x"}')).code).toBe('ok');
  });
});
