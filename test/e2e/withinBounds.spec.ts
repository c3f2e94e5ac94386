import { randomUUID } from 'node:crypto';
import { editedBy, type RouteEdit } from '@/core/route/edit';
import { freshSeat, freshStage, type Series } from '@/core/route/route';
import { everyOperation } from '@/entry/operations';
import { largestInput } from '../largest';
import { asked, browserOf, expect, pdfWith, test, told, uploaded } from './people';

const own = process.env.E2E_URL ?? '';

test('takes the largest input of every operation over HTTP', async ({ playwright }) => {
  test.slow();
  // Somebody whom nothing that follows depends on, and whose browser holds no page: their session ends on the way.
  const fenna = await playwright.request.newContext();
  await fenna.post(`${own}/do/auth.enterAs`, {
    data: { person: 'fenna', commandId: randomUUID() },
    headers: { origin: own },
  });
  let sent = 0;
  for (const { name, kind, who, input } of everyOperation.values()) {
    const prefix = who === 'link' ? `/sign/${'A'.repeat(38)}` : '';
    const answer = await fenna.post(`${own}${prefix}/${kind === 'query' ? 'ask' : 'do'}/${name}`, {
      data: { ...largestInput(input.schema), ...(kind === 'command' ? { commandId: randomUUID() } : {}) },
      headers: { origin: own },
    });
    const body = (await answer.json()) as { ok: boolean; refusal?: { code: string } };
    // Whatever it says of what is asked, the input itself was read and taken.
    expect(['too-large', 'bad-input', 'fault', 'busy'], name).not.toContain(body.refusal?.code ?? 'ok');
    sent += 1;
  }
  expect(sent).toBeGreaterThan(100);
  await fenna.dispose();
});

test('previews and makes an amendment of forty seats', async ({ browser }) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const rufus = await browserOf(browser, 'Rufus Adeyemi');
  const { record } = await told(ines.page, 'record.create', {
    title: 'Forty readers',
    documentType: 'PRO',
    owner: 'rufus',
  });
  const { change, circulation } = await told(ines.page, 'change.start', {
    records: [record],
    reason: 'All of them',
    author: 'rufus',
  });
  const file = await uploaded(rufus.page, 'draft.pdf', await pdfWith('Forty readers'));
  await told(rufus.page, 'draft.setFile', { change, edit: 0, document: 'main', file, name: 'draft.pdf' });
  await told(rufus.page, 'draft.submit', { change, note: null });
  const people = ['petra', 'oskar', 'yuki', 'noor', 'dalia', 'benedikt', 'caspian', 'fenna'];
  const due = { kind: 'after', unit: 'workingDays', amount: 5 } as const;
  const stage = (n: number) =>
    freshStage(
      randomUUID(),
      n === 0 ? 'review' : 'read',
      people.map((person) => ({ ...freshSeat(randomUUID(), { kind: 'person', person }), due })),
    );
  const route: Series = { kind: 'series', id: randomUUID(), parts: [0, 1, 2, 3, 4].map(stage) };
  await told(ines.page, 'circulation.plan', { circulation, route, note: null, basis: null });
  await told(ines.page, 'circulation.send', { circulation });
  const { offers, route: sent } = await asked(ines.page, 'circulation.view', { circulation });
  const basis = offers.find(({ act }) => act === 'amend')?.needs.basis ?? '';
  const edits: RouteEdit[] = route.parts
    .slice(1)
    .map(({ id }) => ({ do: 'change', stage: id, with: { order: 'oneByOne' } }));
  const amendment = { circulation, basis, route: editedBy(sent, edits), note: null, whole: null, files: null };
  // More than an address could carry.
  expect(encodeURIComponent(JSON.stringify(amendment)).length).toBeGreaterThan(16 * 1024);
  const shown = await asked(ines.page, 'circulation.previewAmendment', amendment);
  expect(shown).toMatchObject({ preview: { differences: edits.map(() => ({ what: 'part', part: 'order' })) } });
  await told(ines.page, 'circulation.amend', amendment);
  const { route: amended } = await asked(ines.page, 'circulation.view', { circulation });
  expect(amended.parts.map((part) => part.kind === 'stage' && part.order)).toEqual([
    'together',
    ...edits.map(() => 'oneByOne'),
  ]);
});
