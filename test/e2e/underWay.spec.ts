import type { Page } from '@playwright/test';
import { freshSeat } from '@/core/route/route';
import {
  asked,
  browserOf,
  expect,
  expectAccessible,
  linkFromPost,
  pdfWith,
  phone,
  sent,
  stageOf,
  test,
  told,
  uploaded,
} from './people';

test('amends a circulation under way: somebody is added where it stands, and what was drafted on something else is drafted anew', async ({
  browser,
}) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const rufus = await browserOf(browser, 'Rufus Adeyemi');
  const petra = await browserOf(browser, 'Petra Novak');
  const circulation = await sent(ines.page, rufus.page, 'Tension of the haul rope', [
    stageOf('review', ['petra', 'noor']),
    stageOf('approve', ['benedikt']),
    stageOf('read', ['fenna']),
  ]);
  const { page } = ines;
  await page.goto(`/circulations/${circulation}`);
  await page.getByRole('button', { name: 'Amend …' }).click();
  await expect(page.getByText('You have not changed anything yet.')).toBeVisible();
  await page
    .getByRole('button', { name: /^Review/ })
    .first()
    .click();
  await expect(page.getByText(/This stage has started/)).toBeVisible();
  const who = page.getByRole('combobox', { name: 'Add a person, group or role to this stage' });
  await who.fill('Yuki');
  await page.getByRole('option', { name: /Yuki Arden/ }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByText('Yuki Arden added to review (stage 1)')).toBeVisible();
  await expect(page.getByText('Yuki Arden gets the task “Review”')).toBeVisible();
  // The approval needs other people than the review.
  await page
    .getByRole('button', { name: /^Approve/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Change', exact: true }).click();
  await page.getByRole('group', { name: 'Different people than in' }).getByText('Review, stage 1').click();
  await expect(page.getByText(/stages that need different people changed in approval \(stage 2\)/)).toBeVisible();
  await expectAccessible(page, 'amending');
  // Reloading keeps what was drafted.
  await page.reload();
  await page.getByRole('button', { name: 'Amend …' }).click();
  await page.getByRole('button', { name: 'Amend and tell one person' }).click();
  await expect(page.getByText(/The circulation is amended/)).toBeVisible();
  await expect(page.getByRole('button', { name: /Yuki Arden reviews, asked/ })).toBeVisible();

  // What cannot be amended says why; what can is drafted, and meanwhile Petra responds.
  await page.getByRole('button', { name: 'Amend …' }).click();
  await page
    .getByRole('button', { name: /^Confirm read/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Remove stage' }).click();
  await expect(page.getByText(/Reading \(stage 3\) by Fenna de Wit removed/)).toBeVisible();
  await petra.page.goto(`/circulations/${circulation}`);
  await petra.page.getByRole('button', { name: 'Read and review' }).click();
  await petra.page.getByRole('button', { name: 'Complete review' }).click();
  await petra.page.getByRole('button', { name: 'Complete review' }).last().click();
  await expect(page.getByText('The circulation has moved on since you drafted this amendment.')).toBeVisible();
  await page.getByRole('button', { name: 'Draft it on what there is now' }).click();
  await page.getByRole('button', { name: 'Amend; nobody is told' }).click();
  await expect(page.getByRole('button', { name: /Benedikt Rowe approves/ })).toBeVisible();
  await expect(page.getByRole('button', { name: /Fenna de Wit/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Open tray' }).click();
  await expect(
    page.getByText(/Ines Halloran amended the circulation: reading \(stage 3\) by Fenna de Wit removed/),
  ).toBeVisible();
  // A note for herself stays hers, and the list shows that there is one.
  await page.getByRole('textbox', { name: 'Your note' }).fill('Ask Petra for the old values');
  await page.getByRole('button', { name: 'Save note' }).click();
  await expect(page.getByRole('button', { name: 'Save note' })).toHaveCount(0);
  expect(await asked(page, 'notes.view', { circulation })).toMatchObject({ text: 'Ask Petra for the old values' });
  expect(await asked(petra.page, 'notes.view', { circulation })).toEqual({ text: '', back: null });
  for (const one of [ines, rufus, petra]) expect(one.watch.problems).toEqual([]);
});

test('covers for somebody who is away: their task comes and is answered on their behalf, and is gone once that has ended', async ({
  browser,
}) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const rufus = await browserOf(browser, 'Rufus Adeyemi');
  const dalia = await browserOf(browser, 'Dalia Mercer');
  const fenna = await browserOf(browser, 'Fenna de Wit');
  const [grease, cleaning] = [
    `Grease ${crypto.randomUUID().slice(0, 6)}`,
    `Cleaning ${crypto.randomUUID().slice(0, 6)}`,
  ];
  const first = await sent(ines.page, rufus.page, grease, [stageOf('approve', ['dalia'])]);
  await sent(ines.page, rufus.page, cleaning, [stageOf('approve', ['dalia'])]);
  const own = dalia.page;
  await own.goto('/me');
  await own.getByRole('button', { name: 'Set an absence ...' }).click();
  await own.getByLabel('Back on', { exact: true }).fill('31 Dec 2030');
  await own.getByLabel('Back on', { exact: true }).blur();
  await own.getByRole('combobox', { name: 'Covered by (optional)' }).fill('Fenna');
  await own.getByRole('option', { name: /Fenna de Wit/ }).click();
  await own.getByRole('button', { name: 'Set absence and cover' }).click();
  await expect(own.getByText(/An absence can last/)).toBeVisible();
  const soon = new Date((await asked(own, 'session.me', {})).now + 20 * 86_400_000);
  const day = soon.toLocaleDateString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    timeZone: 'Europe/Oslo',
  });
  await own.getByLabel('Back on', { exact: true }).fill(day);
  await own.getByLabel('Back on', { exact: true }).blur();
  await own.getByRole('button', { name: 'Set absence and cover' }).click();
  await expect(own.getByText(/Away until/)).toBeVisible();
  await expectAccessible(own, 'one’s own page with an absence');

  const { page } = fenna;
  await page.goto('/desk');
  await expect(page.getByRole('button', { name: new RegExp(`Approve: .*${cleaning}`) })).toBeVisible();
  await page.getByRole('button', { name: new RegExp(`Approve: .*${grease}`) }).click();
  await expect(page.getByText(/You cover for Dalia Mercer; you respond in your own name/)).toBeVisible();
  await page.getByRole('button', { name: 'Read and decide' }).click();
  await expect(page.getByText(/You cover for Dalia Mercer until/)).toBeVisible();
  await page.getByRole('button', { name: 'Approve', exact: true }).click();
  await page.getByRole('button', { name: 'Approve', exact: true }).last().click();
  await expect(page).toHaveURL(/\/desk/);
  await ines.page.goto(`/circulations/${first}`);
  await ines.page.getByRole('button', { name: 'Open tray' }).click();
  await expect(ines.page.getByText(/Fenna de Wit approved for Dalia Mercer, covering until/)).toBeVisible();

  await own.getByRole('button', { name: 'End now' }).click();
  await expect(own.getByText('You are not set as away.')).toBeVisible();
  await expect(page.getByRole('button', { name: new RegExp(cleaning) })).toHaveCount(0);
  for (const one of [ines, rufus, dalia, fenna]) {
    // The circle was refused, as it should be.
    expect(one.watch.problems.filter((line) => !line.endsWith('/do/absences.save)'))).toEqual([]);
  }
});

test('chases everybody who is late at once: the fitting act ready in each row, confirmed once', async ({ browser }) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const { page } = ines;
  await page.getByRole('button', { name: 'Chase all who are late' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Late with others' })).toBeVisible();
  await expectAccessible(page, 'who is late');
  const noor = page.getByRole('region', { name: 'Noor Castellan' });
  const rope = noor.getByRole('combobox', { name: /Rope inspection procedure/ });
  await expect(rope).toHaveValue('remind');
  await rope.selectOption('extend');
  const confirm = page.getByRole('button', { name: /extend 1/i });
  await expect(confirm).toBeVisible();
  await confirm.click();
  await expect(page.getByText(/acts? (was|were) carried out/)).toBeVisible();
  // Whoever has a new time is late no longer; whoever was reminded stands there still, and is not reminded again unasked.
  await expect(noor.getByText('Rope inspection procedure')).toHaveCount(0);
  await expect(page.getByText('Done').first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'Nothing chosen' })).toBeDisabled();
  expect(ines.watch.problems).toEqual([]);
});

test('steers and decides on a phone: state, reminding, more time, somebody else, the response', async ({ browser }) => {
  const small = { viewport: { width: 390, height: 844 }, hasTouch: true, isMobile: true };
  const ines = await browserOf(browser, 'Ines Halloran', small);
  const rufus = await browserOf(browser, 'Rufus Adeyemi');
  const noor = await browserOf(browser, 'Noor Castellan', small);
  const title = `Pocket ${crypto.randomUUID().slice(0, 6)}`;
  const { page } = ines;
  const circulation = await sent(page, rufus.page, title, [stageOf('approve', ['yuki'])]);
  const fits = async (one: Page) =>
    expect(await one.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await page.goto(`/circulations/${circulation}`);
  await expect(page.getByText('One person is asked.')).toBeVisible();
  await fits(page);
  await page.getByRole('button', { name: /^Yuki Arden approves/ }).click();
  await page.getByRole('button', { name: 'Remind', exact: true }).click();
  await expect(page.getByText(/was reminded\./)).toBeVisible();
  await page.getByRole('button', { name: 'Extend', exact: true }).click();
  await page.getByRole('button', { name: 'Extend', exact: true }).last().click();
  await expect(page.getByLabel('Closes (optional)')).toHaveCount(0);
  await page.getByRole('button', { name: 'Reassign', exact: true }).click();
  await page.getByRole('combobox', { name: 'Reassign to' }).fill('Noor');
  await page.getByRole('option', { name: /Noor Castellan/ }).click();
  await expectAccessible(page, 'a seat on a phone');
  await fits(page);
  await page.getByRole('button', { name: 'Reassign to Noor Castellan' }).click();
  await expect(page.getByRole('button', { name: /^Noor Castellan approves/ })).toBeVisible();

  const own = noor.page;
  await own.goto('/desk');
  await own.getByRole('button', { name: new RegExp(`Approve: .*${title}`) }).click();
  await own.getByRole('button', { name: 'Read and decide' }).click();
  await own.getByRole('button', { name: 'Approve', exact: true }).click();
  await fits(own);
  await own.getByRole('button', { name: 'Approve', exact: true }).last().click();
  await expect(own).toHaveURL(/\/desk/);
  await expect(page.getByText(/^approved, today/).first()).toBeVisible();
  for (const one of [ines, rufus, noor]) expect(one.watch.problems).toEqual([]);
});

test('works off forty documents by keyboard, with four keys each', async ({ browser }) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const file = await uploaded(ines.page, 'sheet.pdf', await pdfWith('Sheet', 1));
  const due = (await asked(ines.page, 'session.me', {})).now + 2 * 3_600_000;
  for (let i = 0; i < 40; i += 1)
    await told(ines.page, 'desk.sendQuick', {
      file,
      name: 'sheet.pdf',
      title: `Forty, sheet ${i + 1}`,
      verb: 'approve',
      people: [{ kind: 'person', person: 'benedikt' }],
      due,
    });
  const benedikt = await browserOf(browser, 'Benedikt Rowe');
  const { page } = benedikt;
  const rows = page.getByRole('button', { name: /^Approve: .*Forty, sheet/ });
  await expect(rows.first()).toBeFocused();
  let keys = 0;
  const press = async (key: string) => {
    keys += 1;
    await page.keyboard.press(key);
  };
  const seen = new Set<string>();
  for (let i = 0; i < 40; i += 1) {
    const focused = page.locator('[data-row]:focus');
    await expect(focused).toHaveAccessibleName(/^Approve: .*Forty, sheet/);
    seen.add((await focused.getAttribute('aria-label')) ?? '');
    await press('Enter');
    await expect(page.getByRole('button', { name: 'Read and decide' })).toBeVisible();
    await press('Enter');
    await expect(page.getByRole('button', { name: 'Approve', exact: true })).toBeFocused();
    await press('Enter');
    await expect(page.getByRole('textbox')).toBeFocused();
    await press('Control+Enter');
    await expect(page).toHaveURL(/\/desk$/);
    await expect(page.getByRole('heading', { level: 1 })).toHaveText(i === 39 ? /task/ : /\d+ tasks|One task/);
    const last = [...seen].pop() ?? '';
    await expect(page.getByRole('button', { name: last, exact: true })).toHaveCount(0);
  }
  expect(seen.size).toBe(40);
  expect(keys).toBe(160);
  for (const one of [ines, benedikt]) expect(one.watch.problems).toEqual([]);
});

test('puts right what goes wrong under way: a question, a wrong address, a closing time, another controller', async ({
  browser,
}) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const rufus = await browserOf(browser, 'Rufus Adeyemi');
  const yuki = await browserOf(browser, 'Yuki Arden');
  const { page } = ines;
  const { person: inspector } = await told(page, 'people.addOutside', {
    name: 'Sanna Virtue',
    email: `wrong-${crypto.randomUUID().slice(0, 6)}@harrow.example`,
    zone: 'Europe/London',
  });
  const outside = stageOf('review', ['yuki']);
  const stages = [
    { ...outside, seats: [...outside.seats, freshSeat(crypto.randomUUID(), { kind: 'outside', person: inspector })] },
    stageOf('approve', ['oskar']),
  ];
  const { now } = await asked(page, 'session.me', {});
  const title = `Splice ${crypto.randomUUID().slice(0, 6)}`;
  const circulation = await sent(page, rufus.page, title, stages, now + 3 * 3_600_000);
  // Yuki asks before she responds, and is answered where she asked.
  await yuki.page.goto('/desk');
  await yuki.page.getByRole('button', { name: new RegExp(`Review: .*${title}`) }).click();
  await yuki.page.getByRole('button', { name: 'Read and review' }).click();
  await yuki.page.getByRole('button', { name: 'Ask …' }).click();
  await yuki.page.getByLabel('Your question').fill('Which rope is meant?');
  await yuki.page.getByRole('button', { name: 'Send question' }).click();
  await page.goto(`/circulations/${circulation}`);
  await page.getByRole('button', { name: /^Answer Yuki/ }).click();
  await expect(page.getByText('Which rope is meant?')).toBeVisible();
  await page.getByLabel('Your answer').fill('The haul rope.');
  await page.getByRole('button', { name: 'Answer', exact: true }).click();
  await expect(yuki.page.getByText('The haul rope.')).toBeVisible();
  // The inspector's address was wrong; whoever got the first link has nothing in hand.
  const first = await linkFromPost(page, 'Sanna Virtue', new RegExp(title));
  const right = `sanna-${crypto.randomUUID().slice(0, 6)}@harrow.example`;
  await page.getByRole('button', { name: /Sanna Virtue reviews/ }).click();
  await page.getByRole('button', { name: 'Correct address' }).click();
  await page.getByLabel('Right email address').fill(right);
  await page.getByRole('button', { name: 'Correct it' }).click();
  await expect.poll(() => linkFromPost(page, 'Sanna Virtue', new RegExp(title))).not.toBe(first);
  const stranger = await phone(browser);
  await stranger.page.goto(first);
  await expect(stranger.page.getByText(title)).toHaveCount(0);
  // The whole closes before anybody has responded; nobody can, until it gets more time.
  await told(page, 'clock.forward', { hours: 4 });
  await page.reload();
  await expect(page.getByText('It has closed as a whole.')).toBeVisible();
  await page.getByRole('button', { name: 'Give it more time' }).click();
  await expectAccessible(page, 'closed as a whole');
  await page.getByRole('button', { name: 'Extend', exact: true }).click();
  await expect(page.getByText('2 people are asked.')).toBeVisible();
  // Petra steers it from now on.
  await page.getByRole('button', { name: 'Pause, reminders, control …' }).click();
  await page.getByRole('combobox', { name: 'New controller' }).fill('Petra');
  await page.getByRole('option', { name: /Petra Novak/ }).click();
  await page.getByRole('button', { name: 'Hand control to Petra Novak' }).click();
  await expect(page.getByRole('button', { name: 'Pause, reminders, control …' })).toHaveCount(0);
  expect((await asked(page, 'circulation.view', { circulation })).controller).toBe('petra');
  for (const one of [ines, rufus, yuki]) expect(one.watch.problems).toEqual([]);
});
