import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import net from 'node:net';
import path from 'node:path';
import type { APIRequestContext } from '@playwright/test';
import postgres from 'postgres';
import { urlFor } from '../../src/server/db/roles';
import {
  asked,
  askedBy,
  browserOf,
  everyRow,
  expect,
  expectAccessible,
  linkFromPost,
  pdfWith,
  phone,
  test,
} from './people';

const own = process.env.E2E_URL ?? '';

async function signedIn(request: APIRequestContext, person: string, base = own): Promise<void> {
  const answer = await request.post(`${base}/do/auth.enterAs`, { data: { person }, headers: { origin: own } });
  expect(answer.ok()).toBe(true);
}

const put = (
  request: APIRequestContext,
  name: string,
  data: object,
  headers: Record<string, string> = { origin: own },
  base = own,
) => request.post(`${base}/do/${name}`, { data: { commandId: randomUUID(), ...data }, headers });

const send = (request: APIRequestContext, name: string, body: Buffer) =>
  request.post(`${own}/files?${new URLSearchParams({ name })}`, {
    data: body,
    headers: { origin: own, 'content-type': 'application/octet-stream' },
    timeout: 170_000,
  });

/** The words of a PDF as another program reads them. */
function pdfText(bytes: Buffer): string {
  return execFileSync('pdftotext', ['-layout', '-', '-'], { input: bytes }).toString();
}

/** A real PDF grown to about `megabytes` with a comment that readers skip. */
async function pdfOf(megabytes: number): Promise<Buffer> {
  const { PDFDocument, PDFRawStream } = await import('@cantoo/pdf-lib');
  const document = await PDFDocument.load(await pdfWith('Grown', 1));
  const noise = Buffer.alloc(megabytes * 1024 * 1024);
  for (let i = 0; i < noise.length; i += 4096) noise.writeUInt32LE((i * 2654435761) >>> 0, i);
  document.context.register(PDFRawStream.of(document.context.obj({ Length: noise.length }), noise));
  return Buffer.from(await document.save({ useObjectStreams: false }));
}

test('files are told by content, refused with a sentence, and taken in up to the limit', async ({ request }) => {
  await signedIn(request, 'petra');
  const refused = async (name: string, body: Buffer, code: string, status: number) => {
    const answer = await send(request, name, body);
    const said = (await answer.json()) as { refusal: { code: string; sentence: string } };
    expect([said.refusal?.code, answer.status()], name).toEqual([code, status]);
    expect(said.refusal.sentence).toMatch(/\.$/);
  };
  await refused('picture.pdf', Buffer.from([0x89, 0x50, 0x4e, 0x47, 1, 2, 3]), 'not-what-it-says', 422);
  await refused('empty.pdf', Buffer.alloc(0), 'empty-file', 422);
  await refused('broken.pdf', Buffer.from('%PDF-1.7\nthis is not the rest of one'), 'pdf-broken', 422);
  const good = await pdfWith('Good');
  await refused('cut.pdf', good.subarray(0, good.length - 400), 'pdf-broken', 422);
  const { PDFDocument } = await import('@cantoo/pdf-lib');
  const locked = await PDFDocument.load(good);
  locked.encrypt({ userPassword: 'secret', ownerPassword: 'secret' });
  await refused('locked.pdf', Buffer.from(await locked.save({ useObjectStreams: false })), 'pdf-encrypted', 422);
  await refused('huge.pdf', Buffer.alloc(101 * 1024 * 1024, 'x'), 'file-too-large', 413);
  for (const megabytes of [11, 98]) {
    const body = await pdfOf(megabytes);
    const answer = await send(request, `large ${megabytes}.pdf`, body);
    expect(answer.status(), `${megabytes} MB`).toBe(200);
    expect(((await answer.json()) as { value: { bytes: number } }).value.bytes).toBe(body.length);
  }
});

test('requests from elsewhere, without a session, or with forged addresses get nowhere', async ({
  request,
  playwright,
}) => {
  const bare = await playwright.request.newContext();
  const status = async (answer: Promise<{ status: () => number }>) => (await answer).status();
  expect(await status(put(bare, 'record.create', { title: 'x', documentType: 'PRO', owner: 'rufus' }))).toBe(401);
  await signedIn(request, 'petra');
  const mine = { title: 'From elsewhere', documentType: 'PRO', owner: 'rufus' };
  expect(await status(put(request, 'record.create', mine, { origin: 'https://elsewhere.example' }))).toBe(403);
  expect(await status(put(request, 'record.create', mine, { origin: own, 'sec-fetch-site': 'cross-site' }))).toBe(403);
  expect(await status(put(request, 'record.create', mine, {}))).toBe(403);
  expect(await status(request.get(`${own}/do/record.create`))).toBe(405);
  expect(await status(put(request, 'record.create', { ...mine, commandId: 'not an id' }))).toBe(422);
  expect(
    await status(
      request.post(`${own}/do/record.create`, {
        data: 'not json',
        headers: { origin: own, 'content-type': 'application/json' },
      }),
    ),
  ).toBe(422);
  expect(await status(put(request, 'no.such.operation', {}))).toBe(404);
  expect(await status(request.get(`${own}/file/circulation/${randomUUID()}/${'a'.repeat(64)}`))).toBe(404);
  expect(await status(bare.get(`${own}/file/record/${randomUUID()}/A`))).toBe(401);
  expect(await status(bare.get(`${own}/changes`))).toBe(401);

  // A forged forwarded address is ignored: wrong passwords from "many" addresses are still counted as from one.
  let answers: number[] = [];
  for (let i = 0; i < 12; i += 1) {
    const answer = await bare.post(`${own}/do/auth.signIn`, {
      data: { email: 'ines@marrowfell.example', password: 'wrong wrong wrong' },
      headers: { origin: own, 'x-forwarded-for': `203.0.113.${i}`, 'x-avenda-address': `203.0.113.${i}` },
    });
    answers = [...answers, answer.status()];
    expect(JSON.stringify(await answer.json())).not.toMatch(/\bat .*:\d+:\d+|node_modules/);
  }
  expect(answers[0]).toBe(401);
  expect(answers[11]).toBe(429);
  await bare.dispose();
});

test('what no page is made for is answered plainly, with a policy, and leads nowhere', async ({ browser, request }) => {
  const raw = (line: string) =>
    new Promise<string>((resolve, reject) => {
      const { hostname, port } = new URL(own);
      const socket = net.connect(Number(port), hostname, () =>
        socket.end(`${line} HTTP/1.1\r\nhost: x\r\nconnection: close\r\n\r\n`),
      );
      let answer = '';
      socket.on('data', (piece) => {
        answer += piece;
      });
      socket.on('end', () => resolve(answer.split('\r\n')[0] ?? ''));
      socket.on('error', reject);
    });
  expect(await raw('TRACE /')).toMatch(/^HTTP\/1.1 405/);
  expect(await raw('PUT /do/record.create')).toMatch(/^HTTP\/1.1 405/);
  for (const target of ['/s/%ff', '//elsewhere.example/', '/%00'])
    expect(await raw(`GET ${target}`), target).toMatch(/^HTTP\/1.1 (400|404)/);
  for (const path of ['/nowhere-at-all', '/file/circulation/x/y', '/do/record.create']) {
    const answer = await request.get(`${own}${path}`);
    expect(answer.status(), path).toBeGreaterThan(400);
    expect(answer.headers()['content-security-policy'], path).toMatch(
      /default-src '(none|self)'.*frame-ancestors 'none'/,
    );
  }
  expect(await (await request.get(`${own}/health`)).json()).toEqual({ ok: true, database: true });

  // Signing in leads to pages of our own only, whatever an address asks for.
  for (const [to, end] of [
    ['/%09/elsewhere.example', '/desk'],
    ['https://elsewhere.example/', '/desk'],
    ['/\\elsewhere.example', '/desk'],
    ['/register', '/register'],
  ] as const) {
    const context = await browser.newContext();
    const page = await context.newPage();
    await page.goto(`/sign-in?to=${to.startsWith('/%') ? to : encodeURIComponent(to)}`);
    await page.getByRole('button', { name: 'Enter as Petra Novak' }).click();
    await expect(page, to).toHaveURL(new RegExp(`^${own}${end}`));
    await context.close();
  }
});

test('opening a link marks nothing by itself, and a wrong one opens nothing', async ({ browser, playwright }) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const file = (
    (await (await send(ines.page.request, 'note.pdf', await pdfWith('Note', 1))).json()) as { value: { file: string } }
  ).value.file;
  const sent = await put(ines.page.request, 'desk.sendQuick', {
    file,
    name: 'note.pdf',
    title: 'A note for Lotte',
    verb: 'approve',
    people: [{ kind: 'outside', person: 'lotte' }],
  });
  const { circulation } = ((await sent.json()) as { value: { circulation: string } }).value;
  const link = await linkFromPost(ines.page, 'Lotte Kessel', /A note for Lotte/);
  const scanner = await playwright.request.newContext();
  const seen = async () => await asked(ines.page, 'circulation.view', { circulation });
  const before = (await seen()).trail.length;
  const opened = await scanner.get(link);
  expect(opened.status()).toBe(200);
  expect(opened.url()).not.toContain('.'.concat(link.split('.').pop() ?? ''));
  expect((await seen()).seats[0]?.seen).toBeNull();
  expect((await seen()).trail.length).toBe(before);
  // The cookie of a link opens its own seat only, and no page of members.
  const desk = await scanner.post(`${own}/ask/desk.view`, { data: {}, headers: { origin: own } });
  expect(desk.status()).toBe(401);
  const wrong = `${link.slice(0, -4)}AAAA`;
  const stranger = await phone(browser);
  await stranger.page.goto(wrong);
  await expect(stranger.page.getByText('This link does not work.')).toBeVisible();

  const lotte = await phone(browser);
  await lotte.page.goto(link);
  await expect(lotte.page.getByText('asks you to approve')).toBeVisible();
  await expect.poll(async () => (await seen()).seats[0]?.seen !== null).toBe(true);
  await lotte.page.getByRole('button', { name: 'Approve', exact: true }).click();
  await lotte.page.getByRole('button', { name: 'Approve', exact: true }).click();
  await expect(lotte.page.getByText('You have responded.')).toBeVisible();
  expect(lotte.watch.problems).toEqual([]);
  await scanner.dispose();
});

test('what was acknowledged is there once after kill -9, and no message twice', async ({ request, playwright }) => {
  const port = 3900 + Math.floor(Math.random() * 80);
  const base = `http://localhost:${port}`;
  const start = (entry: string): Promise<ChildProcess> =>
    new Promise((resolve, reject) => {
      const child = spawn(process.execPath, [path.resolve(`.build/${entry}.mjs`)], {
        env: { ...process.env, PORT: String(port), NODE_ENV: 'production' },
        stdio: ['ignore', 'pipe', 'inherit'],
      });
      child.stdout?.on('data', (data) => String(data).includes('READY') && resolve(child));
      child.once('exit', (code) => reject(new Error(`${entry} ended with ${code}`)));
    });
  let server = await start('server');
  let worker = await start('worker');
  await signedIn(request, 'ines');
  const other = await playwright.request.newContext();
  await signedIn(other, 'ines', base);
  const file = (
    (await (await send(request, 'crash.pdf', await pdfWith('Crash', 1))).json()) as { value: { file: string } }
  ).value.file;

  // Forty documents sent round through the second server, which is killed in the middle, as is a second worker.
  const commands = Array.from({ length: 40 }, (_, i) => ({
    commandId: randomUUID(),
    file,
    name: 'crash.pdf',
    title: `Crash ${i}`,
    verb: 'read',
    people: [{ kind: 'person', person: 'noor' }],
  }));
  const acknowledged = new Set<string>();
  const attempt = async (context: APIRequestContext, at: string, command: (typeof commands)[number]) => {
    const answer = await context
      .post(`${at}/do/desk.sendQuick`, { data: command, headers: { origin: own }, timeout: 20_000 })
      .catch(() => null);
    if (answer?.ok()) acknowledged.add(command.title);
  };
  const all = commands.map(async (command, i) => {
    await new Promise((resolve) => setTimeout(resolve, i * 25));
    await attempt(other, base, command);
  });
  await expect.poll(() => acknowledged.size, { intervals: [10] }).toBeGreaterThan(5);
  process.kill(server.pid ?? 0, 'SIGKILL');
  process.kill(worker.pid ?? 0, 'SIGKILL');
  await Promise.all(all);
  const before = new Set(acknowledged);
  expect(before.size).toBeGreaterThan(0);
  expect(before.size).toBeLessThan(commands.length);

  // After a restart everybody tries again with the same ids, also what had been acknowledged.
  server = await start('server');
  worker = await start('worker');
  for (const command of commands) await attempt(other, base, command);
  expect(acknowledged.size).toBe(commands.length);
  const rows = await everyRow(request, 'circulation.list', { state: 'all', filter: 'crash' });
  const titles = rows.map((row) => row.title).sort();
  expect(titles).toEqual(commands.map((command) => command.title).sort());

  const told = async () =>
    (await everyRow(request, 'post.list', { filter: 'crash' }))
      .map((mail) => mail.subject)
      .filter((subject) => /Crash \d+$/.test(subject));
  await expect.poll(async () => new Set(await told()).size).toBe(commands.length);
  expect((await told()).length).toBe(commands.length);
  process.kill(server.pid ?? 0, 'SIGKILL');
  process.kill(worker.pid ?? 0, 'SIGKILL');
  await other.dispose();
});

test('a database that throws everybody out ends neither the pages nor the messages', async ({ request, browser }) => {
  await signedIn(request, 'ines');
  const caspian = await browserOf(browser, 'caspian');
  await caspian.page.goto('/desk');
  await expect(caspian.page.getByRole('heading', { level: 1 })).toBeVisible();
  const file = (
    (await (await send(request, 'thrown.pdf', await pdfWith('Thrown', 1))).json()) as { value: { file: string } }
  ).value.file;
  let thrown = 0;
  for (const role of ['avenda_app', 'avenda_worker'] as const) {
    const sql = postgres(urlFor(process.env.DATABASE_URL ?? '', process.env.AVENDA_SECRET ?? '', role), { max: 1 });
    const [row] = await sql<{ n: number }[]>`
      select count(pg_terminate_backend(pid))::int as n from pg_stat_activity
      where usename = ${role} and datname = current_database() and pid <> pg_backend_pid()`;
    thrown += row?.n ?? 0;
    await sql.end();
  }
  expect(thrown).toBeGreaterThan(1);
  const command = {
    commandId: randomUUID(),
    file,
    name: 'thrown.pdf',
    title: 'Thrown out',
    verb: 'read',
    people: [{ kind: 'person', person: 'caspian' }],
  };
  await expect
    .poll(async () => {
      const answer = await request.post(`${own}/do/desk.sendQuick`, { data: command, headers: { origin: own } });
      const said = (await answer.json()) as { refusal?: { sentence: string } };
      if (!answer.ok()) expect(said.refusal?.sentence).toMatch(/Nothing was changed; please try again\.$/);
      return answer.ok();
    })
    .toBe(true);
  await expect(caspian.page.getByText('Thrown out')).toBeVisible();
  await expect
    .poll(async () => {
      const { rows } = await askedBy(request, 'post.list', {});
      return rows.filter((mail) => mail.subject.endsWith('Thrown out')).length;
    })
    .toBe(1);
});

test('whoever comes for a superseded revision is told first; a copy for printing says how things stand', async ({
  browser,
}) => {
  const { page, watch } = await browserOf(browser, 'Ines Halloran');
  const record = (await asked(page, 'register.list', { filter: 'mr-pro-014' })).rows[0]?.record ?? '';
  const { revisions } = await asked(page, 'record.view', { record });
  const [old, current] = [revisions[0], revisions.at(-1)];
  const file = old?.files[0]?.id ?? '';
  await page.goto(`/file/record/${record}/${old?.revision}/${file}?download`);
  await expect(page).toHaveURL(new RegExp(`/register/${record}\\?revision=${old?.revision}$`));
  await expect(page.getByText(`Revision ${old?.revision} is superseded`)).toBeVisible();
  await expect(page.getByRole('link', { name: `Download revision ${current?.revision}` })).toBeVisible();
  await expectAccessible(page, 'Record, a superseded revision');
  const got = async (path: string) => {
    const answer = await page.request.get(path);
    expect(answer.status(), path).toBe(200);
    expect(answer.headers()['content-type']).toBe('application/pdf');
    return { answer, text: pdfText(await answer.body()) };
  };
  const oldCopy = await got(`/file/record/${record}/${old?.revision}/${file}?print&superseded`);
  expect(oldCopy.text).toMatch(
    new RegExp(
      `revision ${old?.revision} · SUPERSEDED by revision \\w+ on .* · printed .* by Ines Halloran · page 1 of`,
    ),
  );
  expect(oldCopy.answer.headers()['content-disposition']).toContain('print copy.pdf');
  expect(oldCopy.answer.headers()['cache-control']).toBe('no-store');
  const newCopy = await got(`/file/record/${record}/${current?.revision}/${current?.files[0]?.id}?print`);
  expect(newCopy.text).toMatch(new RegExp(`revision ${current?.revision} · current on `));
  expect(newCopy.text).not.toContain('SUPERSEDED');
  const { circulation, hash } = await everyRow(page.request, 'circulation.list', { state: 'live' }).then(
    async (rows) => {
      const id = rows.find((row) => row.document === 'MR-PRO-014')?.id ?? '';
      const view = await asked(page, 'circulation.view', { circulation: id });
      return { circulation: id, hash: view.versions.at(-1)?.files[0]?.file ?? '' };
    },
  );
  expect((await got(`/file/circulation/${circulation}/${hash}?print`)).text).toMatch(
    /draft, version \d+ · not released/,
  );
  // What is served as it is stays as it is.
  expect((await got(`/file/circulation/${circulation}/${hash}`)).text).not.toContain('printed');
  expect(watch.problems).toEqual([]);
});
