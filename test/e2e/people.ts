import { AxeBuilder } from '@axe-core/playwright';
import { PDFDocument, StandardFonts } from '@cantoo/pdf-lib';
import {
  type APIRequestContext,
  type Browser,
  type BrowserContext,
  test as base,
  expect,
  type Page,
} from '@playwright/test';
import { atInstant, freshSeat, freshStage, type Stage } from '@/core/route/route';
import type { Verb } from '@/core/route/verbs';
import type { CommandName, InputOf, OutputOf, QueryName } from '@/ui/data/client';

/** What no page may do: write an error to the console, break, or ask any other origin for anything. */
interface Watch {
  readonly problems: string[];
}

function watched(context: BrowserContext, allowed: (text: string) => boolean = () => false): Watch {
  const problems: string[] = [];
  const own = new URL(process.env.E2E_URL ?? '').origin;
  context.on('page', (page) => {
    // Hands are slower than a page that comes alive.
    for (const go of ['goto', 'reload'] as const) {
      const way = page[go].bind(page) as (...given: unknown[]) => ReturnType<Page['goto']>;
      page[go] = async (...given: unknown[]) => {
        const response = await way(...given);
        await page.waitForFunction(() => !document.querySelector('#page') || document.documentElement.dataset.alive);
        return response;
      };
    }
    page.on('console', (message) => {
      if (message.type() === 'error' && !allowed(message.text()))
        problems.push(`console: ${message.text()} (${message.location().url})`);
    });
    page.on('pageerror', (error) => problems.push(`page: ${error.message} (${page.url()})`));
    page.on('request', (request) => {
      const url = request.url();
      if (!url.startsWith(own) && !url.startsWith('data:') && !url.startsWith('blob:'))
        problems.push(`other origin: ${url}`);
    });
  });
  return { problems };
}

/** A browser of one person of the demonstration, signed in, on their Desk. */
export async function browserOf(
  browser: Browser,
  name: string,
  options: Parameters<Browser['newContext']>[0] = {},
): Promise<{ page: Page; watch: Watch; context: BrowserContext }> {
  const context = await browser.newContext(options);
  const watch = watched(context);
  const page = await context.newPage();
  const entered = await context.request.post('/do/auth.enterAs', {
    data: { person: name.split(' ')[0]?.toLowerCase(), commandId: crypto.randomUUID() },
    headers: { origin: new URL(process.env.E2E_URL ?? '').origin },
  });
  expect(entered.ok(), name).toBe(true);
  await page.goto('/desk');
  await expect(page.getByRole('heading', { level: 1 })).toContainText(/tasks? for you/i);
  return { page, watch, context };
}

/** A browser of somebody outside, who has only a link: a phone. */
export async function phone(browser: Browser): Promise<{ page: Page; watch: Watch; context: BrowserContext }> {
  const context = await browser.newContext({
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    isMobile: true,
    deviceScaleFactor: 2,
  });
  const watch = watched(context);
  return { context, watch, page: await context.newPage() };
}

/** No violation of WCAG 2.2 A and AA on the page as it stands; of contrast alone where only colours are others than before. */
export async function expectAccessible(page: Page, what: string, only: 'all' | 'colours' = 'all'): Promise<void> {
  const axe = new AxeBuilder({ page });
  const { violations } = await (only === 'colours'
    ? axe.withRules(['color-contrast'])
    : axe.withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
  ).analyze();
  const found = violations.map(
    (violation) =>
      `${violation.id}: ${violation.nodes
        .slice(0, 3)
        .map((node) => node.html.slice(0, 160))
        .join(' | ')}`,
  );
  expect(found, what).toEqual([]);
}

export async function pdfWith(text: string, pages = 2): Promise<Buffer> {
  const pdf = await PDFDocument.create();
  const font = await pdf.embedFont(StandardFonts.Helvetica);
  for (let n = 1; n <= pages; n += 1)
    pdf.addPage([595, 842]).drawText(`${text}, page ${n}`, { x: 60, y: 760, size: 14, font });
  return Buffer.from(await pdf.save());
}

/** The newest message in the Post room to a person whose subject matches; gives its link. */
export async function linkFromPost(page: Page, to: string, subject: RegExp): Promise<string> {
  let link = '';
  await expect
    .poll(
      async () => {
        const { rows } = await asked(page, 'post.list', {});
        link = rows.find((mail) => mail.to === to && subject.test(mail.subject))?.link ?? '';
        return link;
      },
      { timeout: 30_000 },
    )
    .not.toBe('');
  return link;
}

/** Puts a command as the page's person, where a test is about something else than the screens that would put it. */
export async function told<N extends CommandName>(page: Page, name: N, input: InputOf<N>): Promise<OutputOf<N>> {
  const answer = await page.request.post(`/do/${name}`, {
    data: { ...(input as object), commandId: crypto.randomUUID() },
    headers: { origin: new URL(page.url()).origin },
  });
  const body = (await answer.json()) as { ok: boolean; value: OutputOf<N> };
  expect(body.ok, `${name}: ${JSON.stringify(body)}`).toBe(true);
  return body.value;
}

/** Sends a file to the server as the page's person; gives its hash. */
export async function uploaded(page: Page, name: string, bytes: Buffer): Promise<string> {
  const answer = await page.request.post(`/files?${new URLSearchParams({ name })}`, {
    data: bytes,
    headers: { origin: new URL(page.url()).origin, 'content-type': 'application/octet-stream' },
  });
  return ((await answer.json()) as { value: { file: string } }).value.file;
}

/** Answers a question of the server as the page's person. */
export async function asked<N extends QueryName>(page: Page, name: N, input: InputOf<N>): Promise<OutputOf<N>> {
  return askedBy(page.request, name, input);
}

/** The same for whoever a request belongs to. */
export async function askedBy<N extends QueryName>(
  request: APIRequestContext,
  name: N,
  input: InputOf<N>,
): Promise<OutputOf<N>> {
  const own = process.env.E2E_URL ?? '';
  const answer = await request.post(`${own}/ask/${name}`, { data: input as object, headers: { origin: own } });
  return ((await answer.json()) as { value: OutputOf<N> }).value;
}

/** All rows of a list that comes in pages, as whoever the request belongs to. */
export async function everyRow<N extends 'circulation.list' | 'post.list'>(
  request: APIRequestContext,
  name: N,
  input: InputOf<N>,
): Promise<OutputOf<N>['rows'][number][]> {
  const rows: OutputOf<N>['rows'][number][] = [];
  let after: string | null = null;
  do {
    const page: OutputOf<N> = await askedBy(request, name, { ...(input as object), after } as InputOf<N>);
    rows.push(...page.rows);
    after = page.next;
  } while (after !== null);
  return rows;
}

/** Every test closes the browsers it opened: a page left open goes on listening to all that later tests do. */
export const stageOf = (verb: Verb, people: readonly string[]): Stage => ({
  ...freshStage(
    crypto.randomUUID(),
    verb,
    people.map((person) => freshSeat(crypto.randomUUID(), { kind: 'person', person })),
  ),
});

/** A circulation that Ines has sent along a route, with a draft of Rufus’s. */
export async function sent(
  ines: Page,
  rufus: Page,
  title: string,
  stages: readonly Stage[],
  closes: number | null = null,
): Promise<string> {
  const { record } = await told(ines, 'record.create', { title, documentType: 'PRO', owner: 'rufus' });
  const made = await told(ines, 'change.start', { records: [record], reason: 'New values', author: 'rufus' });
  const file = await uploaded(rufus, 'draft.pdf', await pdfWith(title));
  await told(rufus, 'draft.setFile', { change: made.change, edit: 0, document: 'main', file, name: 'draft.pdf' });
  await told(rufus, 'draft.submit', { change: made.change, note: null });
  const { circulation } = made;
  const route = { kind: 'series' as const, id: crypto.randomUUID(), parts: [...stages] };
  const whole = closes === null ? {} : { whole: { due: null, closes: atInstant(closes) } };
  await told(ines, 'circulation.plan', { circulation, route, note: null, basis: null, ...whole });
  await told(ines, 'circulation.send', { circulation });
  return circulation;
}

export const test = base.extend<{ closed: undefined }>({
  closed: [
    async ({ browser }, use) => {
      await use(undefined);
      for (const context of browser.contexts()) await context.close();
    },
    { auto: true },
  ],
});
export { expect };
