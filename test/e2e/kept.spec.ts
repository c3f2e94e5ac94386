import {
  asked,
  browserOf,
  expect,
  expectAccessible,
  linkFromPost,
  pdfWith,
  phone,
  test,
  told,
  uploaded,
} from './people';

const offline = (problem: string) => problem.includes('ERR_INTERNET_DISCONNECTED') || problem.includes('409');

test('two windows of one text follow each other, and when both were changed neither text is lost', async ({
  browser,
}) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const desk = await browserOf(browser, 'Fenna de Wit');
  const laptop = await browserOf(browser, 'Fenna de Wit');
  const { record } = await told(ines.page, 'record.create', {
    title: 'Snow gauge',
    documentType: 'WI',
    owner: 'fenna',
  });
  const { change } = await told(ines.page, 'change.start', {
    records: [record],
    reason: 'A new gauge',
    author: 'fenna',
  });
  const text = (page: typeof desk.page) => page.getByRole('textbox', { name: 'The text of the draft' });
  const type = async (page: typeof desk.page, words: string) => {
    await text(page).click();
    await page.keyboard.press('Control+End');
    await page.keyboard.type(words);
  };
  for (const { page } of [desk, laptop]) await page.goto(`/draft/${change}`);
  await type(desk.page, 'Read it at seven.');
  await expect(text(laptop.page)).toHaveText('Read it at seven.');
  await type(laptop.page, ' Write it down.');
  await expect(text(desk.page)).toHaveText('Read it at seven. Write it down.');

  await laptop.context.setOffline(true);
  await type(laptop.page, ' On the train.');
  await type(desk.page, ' At the desk.');
  await expect(desk.page.getByText(/^Saved /)).toBeVisible();
  await laptop.context.setOffline(false);
  const both = laptop.page.getByRole('region', { name: 'This text was changed in another window too' }).first();
  await expect(both).toContainText('At the desk.');
  await expect(text(laptop.page)).toContainText('On the train.');
  await expectAccessible(laptop.page, 'Two texts');
  // Neither a reload nor waiting decides it.
  await laptop.page.reload();
  await expect(both).toContainText('At the desk.');
  await expect(text(laptop.page)).toContainText('On the train.');
  await expect(laptop.page.getByRole('button', { name: 'Submit version 1' })).toBeDisabled();
  await laptop.page.getByRole('button', { name: 'Use the text below and save the other as a version' }).click();
  await expect(text(desk.page)).toHaveText('Read it at seven. Write it down. On the train.');
  await laptop.page.getByRole('button', { name: 'Open tray' }).click();
  await expect(laptop.page.getByText('From another window')).toBeVisible();
  expect([...desk.watch.problems, ...laptop.watch.problems].filter((problem) => !offline(problem))).toEqual([]);
});

test('a plan is saved though one leaves at once, and a second window shows it', async ({ browser }) => {
  const { page, watch, context } = await browserOf(browser, 'Ines Halloran');
  const { record } = await told(page, 'record.create', {
    title: 'Mast lights',
    documentType: 'WI',
    owner: 'fenna',
  });
  const { circulation } = await told(page, 'change.start', {
    records: [record],
    reason: 'New lamps',
    author: 'fenna',
  });
  const plan = `/circulations/${circulation}/plan`;
  const second = await context.newPage();
  for (const one of [page, second]) await one.goto(plan);
  await page.getByRole('button', { name: 'Add a stage', exact: true }).click();
  await expect(second.getByText('This stage has nobody in it.').first()).toBeVisible();
  const words = page.getByLabel('Message to everyone you ask (optional)');
  await words.fill('Please look at the lamp on tower four.');
  await expect(second.getByLabel('Message to everyone you ask (optional)')).toHaveValue(/tower four/);

  // Away within the pause before it would have been saved: by a link of the page, and out of the application.
  await words.fill('And at the lamp on tower five.');
  await page.getByRole('link', { name: /^C-/ }).click();
  await expect(page.getByRole('button', { name: 'Plan route' })).toBeVisible();
  const kept = async () => (await asked(page, 'circulation.view', { circulation })).note;
  await expect.poll(kept).toBe('And at the lamp on tower five.');
  await second.bringToFront();
  await expect(second.getByLabel('Message to everyone you ask (optional)')).toHaveValue(
    'And at the lamp on tower five.',
  );
  await second.getByLabel('Message to everyone you ask (optional)').fill('And at the lamp on tower six.');
  await second.goto('about:blank');
  await expect.poll(kept).toBe('And at the lamp on tower six.');

  // Without a connection it says so, and saves by itself afterwards.
  await page.goto(plan);
  await expect(words).toHaveValue('And at the lamp on tower six.');
  await context.setOffline(true);
  await words.fill('Tower seven.');
  await expect(page.getByText('Not saved yet', { exact: true })).toBeVisible();
  await context.setOffline(false);
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  expect(await kept()).toBe('Tower seven.');
  expect(watch.problems.filter((problem) => !offline(problem))).toEqual([]);
});

test('a comment, a reason and fields are kept over Escape, a reload and another day', async ({ browser }) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const petra = await browserOf(browser, 'Petra Novak');
  const file = await uploaded(ines.page, 'ladders.pdf', await pdfWith('Ladders'));
  const { circulation } = await told(ines.page, 'desk.sendQuick', {
    file,
    name: 'ladders.pdf',
    title: 'Ladders of the towers',
    verb: 'review',
    people: [{ kind: 'person', person: 'petra' }],
  });
  const { seats } = await asked(ines.page, 'circulation.view', { circulation });
  const { page } = petra;
  const act = `/circulations/${circulation}/act/${seats[0]?.id}`;
  await page.goto(act);
  const comment = page.getByRole('textbox', { name: 'Your comment' });
  await page.locator('[data-page="0"]').click({ position: { x: 200, y: 300 } });
  await comment.fill('The rungs are missing.');
  await page.keyboard.press('Escape');
  await expect(comment).toBeHidden();
  await page.reload();
  await page.locator('[data-page="0"]').click({ position: { x: 240, y: 380 } });
  await expect(comment).toHaveValue('The rungs are missing.');
  await page.getByRole('button', { name: 'Comment', exact: true }).dblclick();
  await expect(page.getByRole('button', { name: 'Petra Novak: The rungs are missing.' })).toBeVisible();
  await page.locator('[data-page="0"]').click({ position: { x: 240, y: 480 } });
  await expect(comment).toHaveValue('');
  await page.keyboard.press('Escape');
  // Words that are selected are what the comment is about: they stand in its leaf at once, and are marked on the page.
  const words = page.locator('[data-page="0"] .textLayer span', { hasText: 'Ladders' }).first();
  const line = await words.boundingBox();
  if (!line) throw new Error('no words');
  await page.mouse.move(line.x + 1, line.y + line.height / 2);
  await page.mouse.down();
  await page.mouse.move(line.x + line.width - 1, line.y + line.height / 2, { steps: 8 });
  await page.mouse.up();
  await expect(page.getByText('“Ladders, page 1”')).toBeVisible();
  await comment.fill('Which ladders?');
  await page.getByRole('button', { name: 'Comment', exact: true }).click();
  await page.getByRole('button', { name: 'Petra Novak: Which ladders?' }).click();
  await expect(page.getByText('“Ladders, page 1”')).toBeVisible();
  const marked = (await asked(page, 'circulation.view', { circulation })).comments.at(-1)?.spot;
  expect([marked?.quote, marked?.marks?.length]).toEqual(['Ladders, page 1', 1]);
  expect(Math.abs((marked?.y ?? 0) - 85)).toBeLessThan(8);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Return …' }).click();
  await page.getByRole('textbox', { name: 'Reason' }).fill('Without rungs nobody climbs.');
  await page.goto('/desk');
  await page.goto(act);
  await page.getByRole('button', { name: 'Return …' }).click();
  await expect(page.getByRole('textbox', { name: 'Reason' })).toHaveValue('Without rungs nobody climbs.');
  await page.getByRole('button', { name: 'Return for rework' }).click();
  await expect(page).toHaveURL(/\/desk/);
  const view = await asked(ines.page, 'circulation.view', { circulation });
  expect(view.comments.map((entry) => [entry.by, entry.note])).toEqual([
    ['petra', 'The rungs are missing.'],
    ['petra', 'Which ladders?'],
  ]);

  const signed = await told(ines.page, 'desk.sendQuick', {
    file,
    name: 'ladders.pdf',
    title: 'Ladders, to be signed',
    verb: 'sign',
    people: [{ kind: 'person', person: 'petra' }],
  });
  await ines.page.goto(`/circulations/${signed.circulation}/fields`);
  await ines.page.locator('[data-page="0"]').click({ position: { x: 300, y: 400 } });
  await expect(ines.page.getByText('Not saved yet; kept on this device.')).toBeVisible();
  await ines.page.reload();
  await expect(ines.page.getByText('Everybody who signs has a field.')).toBeVisible();
  const fields = async () =>
    (await asked(ines.page, 'circulation.view', { circulation: signed.circulation })).fields.length;
  expect(await fields()).toBe(0);
  await ines.page.getByRole('button', { name: 'Save fields' }).click();
  await expect(ines.page.getByText('One person is asked.')).toBeVisible();
  expect(await fields()).toBe(1);
  expect([...petra.watch.problems, ...ines.watch.problems]).toEqual([]);
});

test('somebody outside reviews on a phone: comments where it stands, reads the answer, finishes', async ({
  browser,
}) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const file = await uploaded(ines.page, 'grip.pdf', await pdfWith('Grip report'));
  const { circulation } = await told(ines.page, 'desk.sendQuick', {
    file,
    name: 'grip.pdf',
    title: 'Grip report',
    verb: 'review',
    people: [{ kind: 'outside', person: 'jarek' }],
    note: 'Please look at page one.',
  });
  const link = await linkFromPost(ines.page, 'Jarek Holm', /Please review Grip report$/);
  const { page, watch } = await phone(browser);
  await page.goto(link);
  await page.locator('[data-page="0"]').click({ position: { x: 120, y: 160 } });
  await page.getByRole('textbox', { name: 'Your comment' }).fill('This load is not the agreed one.');
  await expectAccessible(page, 'Signing page, a comment');
  await page.getByRole('button', { name: 'Comment', exact: true }).click();
  await ines.page.goto(`/circulations/${circulation}/read`);
  await ines.page.getByRole('button', { name: 'Jarek Holm: This load is not the agreed one.' }).click();
  await ines.page.getByRole('button', { name: 'Reply', exact: true }).click();
  await ines.page.getByRole('textbox', { name: 'Your reply' }).fill('It is, see the table.');
  await ines.page.getByRole('button', { name: 'Reply', exact: true }).click();
  await page.getByRole('button', { name: 'Jarek Holm: This load is not the agreed one.' }).click();
  await expect(page.getByText('It is, see the table.')).toBeVisible();
  await expectAccessible(page, 'Signing page, an answer');
  await page.keyboard.press('Escape');
  // A reason that was begun and left goes nowhere.
  await page.getByRole('button', { name: 'Return …' }).click();
  await page.getByRole('textbox', { name: 'Reason' }).fill('Too angry to send.');
  await page.getByRole('button', { name: 'Back to the document' }).click();
  await page.getByRole('button', { name: 'Complete review' }).click();
  await page.getByRole('button', { name: 'Complete review' }).click();
  await expect(page.getByText('You have responded.')).toBeVisible();
  const { seats } = await asked(ines.page, 'circulation.view', { circulation });
  expect(seats.map(({ decision }) => [decision?.outcome, decision?.note])).toEqual([['done', null]]);
  const { comments } = await asked(ines.page, 'circulation.view', { circulation });
  expect(comments.map(({ by, note }) => [by, note])).toEqual([
    ['jarek', 'This load is not the agreed one.'],
    ['ines', 'It is, see the table.'],
  ]);
  expect([...ines.watch.problems, ...watch.problems]).toEqual([]);
});

test('an act is told in one line with who has it now, and nothing else flashes on the way to the Desk', async ({
  browser,
}) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const petra = await browserOf(browser, 'Petra Novak');
  const file = await uploaded(ines.page, 'lamps.pdf', await pdfWith('Lamps'));
  const { circulation } = await told(ines.page, 'desk.sendQuick', {
    file,
    name: 'lamps.pdf',
    title: 'Lamps of the stations',
    verb: 'review',
    people: [
      { kind: 'person', person: 'petra' },
      { kind: 'person', person: 'yuki' },
    ],
  });
  const { seats } = await asked(ines.page, 'circulation.view', { circulation });
  const { page } = petra;
  await page.goto(`/circulations/${circulation}/act/${seats.find((seat) => seat.holder === 'petra')?.id}`);
  await expect(page.getByRole('button', { name: 'Complete review' })).toBeVisible();
  // From now on every answer takes two seconds, and whatever stands on the page in between is noted.
  await page.evaluate(() => {
    const seen: string[] = [];
    Object.assign(window, { seen });
    new MutationObserver(() =>
      seen.push([...document.querySelectorAll('header, main')].map((part) => part.textContent).join(' ')),
    ).observe(document.body, {
      subtree: true,
      childList: true,
      characterData: true,
    });
  });
  await page.route('**/ask/**', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 2000));
    await route.continue();
  });
  await page.getByRole('button', { name: 'Complete review' }).click();
  await page.getByRole('region', { name: 'Complete review' }).getByRole('button', { name: 'Complete review' }).click();
  await expect(page).toHaveURL(/\/desk/);
  await expect(page.getByRole('status').filter({ hasText: 'Response given. Yuki Arden has it.' })).toBeVisible();
  await expect(page.getByRole('heading', { level: 1 })).toContainText(/tasks? for you/i);
  const seen = await page.evaluate(() => (window as unknown as { seen: string[] }).seen);
  expect(seen.length).toBeGreaterThan(0);
  expect(seen.filter((text) => /nothing to respond to|For information only|undefined/.test(text))).toEqual([]);
  // While it says that it loads it claims nothing.
  expect(seen.filter((text) => text.includes('Loading …') && text.includes('not waiting for anyone'))).toEqual([]);
  expect(petra.watch.problems).toEqual([]);
});

test('forms are the same in two windows, outlive a reload, and close with a sentence when their ground is gone', async ({
  browser,
}) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const { circulation } = await told(ines.page, 'desk.sendQuick', {
    file: await uploaded(ines.page, 'winch.pdf', await pdfWith('Winch room')),
    name: 'winch.pdf',
    title: 'Winch room rules',
    verb: 'review',
    people: [{ kind: 'person', person: 'petra' }],
  });
  const { seats, record } = await asked(ines.page, 'circulation.view', { circulation });
  const seat = seats[0]?.id ?? '';
  const second = await ines.context.newPage();
  const form = async (page: typeof second) => {
    await page.goto(`/circulations/${circulation}?seat=${seat}`);
    await page.getByRole('button', { name: 'Reassign', exact: true }).click();
  };
  await form(ines.page);
  await ines.page.getByRole('combobox', { name: 'Reassign to' }).fill('Yuki');
  await ines.page.getByRole('option', { name: /Yuki Arden/ }).click();
  await ines.page.getByRole('textbox', { name: /Message|Note/ }).fill('You know the winch.');
  await form(second);
  // Whoever was chosen and what was typed stands in the other window as well, and after a reload.
  await expect(second.getByRole('button', { name: 'Reassign to Yuki Arden' })).toBeVisible();
  await expect(second.getByRole('textbox', { name: /Message|Note/ })).toHaveValue('You know the winch.');
  await second.getByRole('textbox', { name: /Message|Note/ }).fill('You know the winch best.');
  await expect(ines.page.getByRole('textbox', { name: /Message|Note/ })).toHaveValue('You know the winch best.');
  await form(ines.page);
  await expect(ines.page.getByRole('textbox', { name: /Message|Note/ })).toHaveValue('You know the winch best.');
  // Petra finishes meanwhile: there is nobody to give it to any more.
  const petra = await browserOf(browser, 'Petra Novak');
  const mine = await asked(petra.page, 'seat.mine', { circulation, seat });
  await told(petra.page, 'seat.decideMine', {
    circulation,
    seat,
    epoch: seats[0]?.epoch ?? 1,
    scope: mine.content?.scope ?? '',
    outcome: 'done',
    values: {},
  });
  for (const page of [ines.page, second]) {
    await expect(page.getByText('This was changed elsewhere meanwhile')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Reassign to Yuki Arden' })).toBeHidden();
  }

  await ines.page.goto(`/register/${record.id}`);
  await ines.page.getByRole('button', { name: 'Edit details' }).first().click();
  await ines.page.getByLabel('Title').fill('Rules of the winch room');
  await ines.page.reload();
  await ines.page.getByRole('button', { name: 'Edit details' }).first().click();
  await expect(ines.page.getByLabel('Title')).toHaveValue('Rules of the winch room');
  await ines.page.getByRole('button', { name: 'Cancel' }).click();
  await ines.page.getByRole('button', { name: 'Edit details' }).first().click();
  await expect(ines.page.getByLabel('Title')).toHaveValue('Winch room rules');
  expect([...ines.watch.problems, ...petra.watch.problems]).toEqual([]);
});
