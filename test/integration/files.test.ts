import { randomBytes } from 'node:crypto';
import fc from 'fast-check';
import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { runsOf } from '../setting';
import { neighbours, organization, type World, world } from './world';

let w: World;
let store: typeof import('@/server/files/store');
let serveFile: typeof import('@/app/serve')['serveFile'];
beforeAll(async () => {
  w = await world();
  store = await import('@/server/files/store');
  ({ serveFile } = await import('@/app/serve'));
});
afterAll(async () => {
  await w.close();
});

const chunks = (hash: string) =>
  w.inOrganization(
    organization,
    (tx) => tx.sql<{ size: number }[]>`
      select length(c.bytes) as size from file f
      cross join unnest(f.chunks) with ordinality as part (name, position)
      join chunk c on c.organization = f.organization and c.hash = part.name
      where f.organization = ${organization} and f.hash = ${hash} order by part.position`,
  );
async function read(hash: string, from: number, to: number): Promise<Buffer> {
  const pieces: Uint8Array[] = [];
  for await (const piece of store.readRange(organization, hash, from, to)) pieces.push(piece);
  return Buffer.concat(pieces);
}

describe('the store of files', () => {
  it('keeps what it was given, in whatever pieces it comes, in chunks of one size and a rest', async () => {
    const { chunkSize } = store;
    await fc.assert(
      fc.asyncProperty(
        fc.oneof(
          fc.constantFrom(0, 1, chunkSize - 1, chunkSize, chunkSize + 1, 2 * chunkSize),
          fc.integer({ min: 0, max: 3 * chunkSize }),
        ),
        fc.array(fc.integer({ min: 1, max: 2 * chunkSize }), { minLength: 1, maxLength: 5 }),
        async (size, cuts) => {
          const bytes = randomBytes(size);
          const hash = store.sha256(bytes);
          const file = { hash, bytes: size, mediaType: 'application/octet-stream', facts: {} };
          await store.putFile(organization, file, async function* () {
            for (let at = 0, i = 0; at < size; i += 1) {
              const to = at + (cuts[i % cuts.length] as number);
              yield bytes.subarray(at, to);
              at = to;
            }
          });
          expect((await store.readWhole(organization, file)).equals(bytes)).toBe(true);
          const kept = await chunks(hash);
          expect(kept.slice(0, -1).every((chunk) => chunk.size === chunkSize)).toBe(true);
          expect(kept.reduce((sum, chunk) => sum + chunk.size, 0)).toBe(size);
        },
      ),
      { numRuns: runsOf(25) },
    );
  });

  it('keeps the same bytes once, and each organization its own', async () => {
    const bytes = randomBytes(1000);
    const one = await store.putBytes(organization, bytes, 'application/octet-stream');
    await store.putBytes(organization, bytes, 'application/octet-stream');
    expect(await chunks(one.hash)).toHaveLength(1);
    expect(await w.inOrganization(neighbours, (tx) => store.findFile(tx, one.hash))).toBeNull();
  });

  it('has no file of an upload that broke off, and takes the same one whole afterwards', async () => {
    const bytes = randomBytes(store.chunkSize * 2 + 10);
    const file = { hash: store.sha256(bytes), bytes: bytes.length, mediaType: 'application/octet-stream', facts: {} };
    const broken = store.putFile(organization, file, async function* () {
      yield bytes.subarray(0, store.chunkSize + 5);
      throw new Error('the line went dead');
    });
    await expect(broken).rejects.toThrow('the line went dead');
    expect(await w.inOrganization(organization, (tx) => store.findFile(tx, file.hash))).toBeNull();
    await store.putBytes(organization, bytes, 'application/octet-stream');
    expect((await store.readWhole(organization, file)).equals(bytes)).toBe(true);
  });

  it('notices a damaged, a missing, a shortened and another chunk instead of handing it out as the file', async () => {
    const owner = postgres(process.env.DATABASE_URL ?? '', { max: 1 });
    const other = await store.putBytes(organization, randomBytes(5000), 'application/octet-stream');
    for (const [damage, sign] of [
      ['update chunk set bytes = set_byte(bytes, 3, (get_byte(bytes, 3) + 1) % 256) where hash = $1', /damaged/],
      ['delete from chunk where hash = $1', /missing/],
      ['update chunk set bytes = substring(bytes for 10) where hash = $1', /damaged/],
      [`update file set chunks = array['${other.hash}'] where hash = $1`, /damaged in the store/],
    ] as const) {
      const file = await store.putBytes(organization, randomBytes(5000), 'application/octet-stream');
      // The application's own role cannot do any of it.
      await expect(w.inOrganization(organization, (tx) => tx.sql.unsafe(damage, [file.hash]))).rejects.toThrow(
        /permission denied/,
      );
      await owner.begin(async (tx) => {
        await tx`select set_config('avenda.organization', ${organization}, true)`;
        await tx.unsafe(damage, [file.hash]);
      });
      await expect(store.readWhole(organization, file), damage).rejects.toThrow(sign);
    }
    await owner.end();
  });
});

describe('a served file', () => {
  it('answers any range as RFC 9110 says: the part, the rest, the end, or that there is none', async () => {
    const bytes = randomBytes(store.chunkSize + 777);
    const file = await store.putBytes(organization, bytes, 'application/pdf');
    const served = { file, name: 'Rope – “splice”, 1.pdf' };
    const size = bytes.length;
    const get = (range?: string) =>
      serveFile(new Request('http://localhost/file', range ? { headers: { range } } : {}), organization, served);
    const body = async (response: Response) => Buffer.from(await response.arrayBuffer());
    await fc.assert(
      fc.asyncProperty(
        fc.nat({ max: size + 10 }),
        fc.option(fc.nat({ max: size + 10 }), { nil: null }),
        async (from, to) => {
          const response = get(`bytes=${from}-${to ?? ''}`);
          const last = Math.min(to ?? size - 1, size - 1);
          if (from >= size || last < from) {
            expect(response.status).toBe(416);
            expect(response.headers.get('content-range')).toBe(`bytes */${size}`);
            return;
          }
          expect(response.status).toBe(206);
          expect(response.headers.get('content-range')).toBe(`bytes ${from}-${last}/${size}`);
          expect((await body(response)).equals(bytes.subarray(from, last + 1))).toBe(true);
        },
      ),
      { numRuns: runsOf(40) },
    );
    const end = get('bytes=-100');
    expect((await body(end)).equals(bytes.subarray(size - 100))).toBe(true);
    // What is no range of bytes is answered whole.
    for (const odd of [undefined, 'bytes=-', 'lines=1-2', 'bytes=1-2,5-6', 'bytes=a-b']) {
      const whole = get(odd);
      expect([whole.status, whole.headers.get('content-length')]).toEqual([200, String(size)]);
      expect((await body(whole)).equals(bytes)).toBe(true);
    }
    expect((await read(file.hash, 5, 5)).length).toBe(0);
  });

  it('is asked for each time, and not sent again to whom it was sent before and who may still see it', async () => {
    const bytes = randomBytes(500);
    const file = await store.putBytes(organization, bytes, 'application/pdf');
    const get = (known: string, served: Parameters<typeof serveFile>[2]) =>
      serveFile(new Request('http://localhost/file', { headers: { 'if-none-match': known } }), organization, served);
    const first = get('"another"', { file, name: 'a.pdf' });
    expect([first.status, first.headers.get('cache-control')]).toEqual([200, 'private, no-cache']);
    await first.body?.cancel();
    const again = get(first.headers.get('etag') ?? '', { file, name: 'a.pdf' });
    expect([again.status, again.body, again.headers.get('etag')]).toEqual([304, null, `"${file.hash}"`]);
    expect(get(`"${file.hash}"`, null).status).toBe(404);
  });

  it('is never run by a browser: what is not a PDF or a picture is only ever saved, and nothing may load from it', async () => {
    for (const [mediaType, disposition] of [
      ['application/pdf', 'inline'],
      ['image/png', 'inline'],
      ['application/octet-stream', 'attachment'],
      ['text/html', 'attachment'],
      ['application/zip', 'attachment'],
    ] as const) {
      const file = await store.putBytes(organization, Buffer.from(`<script>1</script> ${mediaType}`), mediaType);
      const response = serveFile(new Request('http://localhost/file'), organization, { file, name: "it's (one).html" });
      expect(response.headers.get('content-disposition')).toBe(`${disposition}; filename="it's (one).html"`);
      expect(response.headers.get('x-content-type-options')).toBe('nosniff');
      expect(response.headers.get('content-security-policy')).toContain("default-src 'none'");
      expect(response.headers.get('content-type')).toBe(
        disposition === 'inline' ? mediaType : 'application/octet-stream',
      );
      await response.body?.cancel();
    }
    const pdf = await store.putBytes(organization, randomBytes(20), 'application/pdf');
    const saved = serveFile(new Request('http://localhost/file?download'), organization, { file: pdf, name: 'a.pdf' });
    expect(saved.headers.get('content-disposition')).toMatch(/^attachment/);
    await saved.body?.cancel();
    expect(serveFile(new Request('http://localhost/file'), organization, null).status).toBe(404);
  });
});
