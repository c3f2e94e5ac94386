import type { Page } from '@playwright/test';
import {
  asked,
  browserOf,
  everyRow,
  expect,
  expectAccessible,
  linkFromPost,
  pdfWith,
  phone,
  test,
  told,
  uploaded,
} from './people';

/** Accessible as it stands; dark, only the colours are others. */
async function inBoth(page: Page, what: string): Promise<void> {
  const ground = () => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  await expectAccessible(page, what);
  const light = await ground();
  await page.evaluate(() => document.documentElement.classList.replace('light', 'dark'));
  await expect.poll(ground).not.toBe(light);
  await expectAccessible(page, `${what}, dark`, 'colours');
  await page.evaluate(() => document.documentElement.classList.replace('dark', 'light'));
}

test('every main screen is accessible, light and dark', async ({ browser }) => {
  const { page, watch } = await browserOf(browser, 'Ines Halloran');
  const list = await everyRow(page.request, 'circulation.list', { state: 'all' });
  const of = (document: string, phase?: string) =>
    list.find((row) => row.document === document && (!phase || row.phase === phase))?.id ?? '';
  const records = (await asked(page, 'register.list', { filter: 'mr-pro-014' })).rows;
  const record = records.find((row) => row.number === 'MR-PRO-014')?.record;
  const view = await asked(page, 'circulation.view', { circulation: of('MR-LOG-001') });
  const screens: [string, string, RegExp | string][] = [
    ['Desk', '/desk', /tasks? for you/],
    ['Desk, sending', '/desk?send', 'Title'],
    ['Circulations', '/circulations', 'MR-PRO-014'],
    ['Circulation, branches', `/circulations/${of('MR-AGR-021')}`, 'Haul rope supply agreement'],
    ['Circulation, stopped', `/circulations/${of('MR-CER-009')}`, 'It has stopped'],
    ['Circulation, withdrawn', `/circulations/${of('MR-AGR-018', 'withdrawn')}`, 'Withdrawn'],
    ['Planner', `/circulations/${of('MR-AGR-018', 'new')}/plan`, 'Before sending'],
    ['Fields', `/circulations/${of('MR-AGR-021')}/fields`, /^Fields: /],
    ['Reading', `/circulations/${of('MR-PRO-014')}/read`, 'Rope inspection procedure'],
    ['Register', '/register', 'MR-AGR-018'],
    ['Record', `/register/${record}`, 'superseded'],
    ['New record', '/register/new', 'New document'],
    ['Draft', `/draft/${view.change}`, 'Rope and wind log'],
    ['People', '/people', 'Harrow & Pell'],
    ['Own page', '/me', 'Where you are signed in'],
    ['Document types', '/types', 'Only an administrator can change document types.'],
    ['Late with others', '/desk/late', 'Late with others'],
    ['Load', '/circulations/load', 'Where it waits'],
    ['Post room', '/post', 'Post room'],
    ['Specimens', '/specimens', 'Specimens'],
  ];
  for (const [name, url, sign] of screens) {
    await page.goto(url);
    await expect(page.getByText(sign).first(), name).toBeVisible();
    await page.waitForTimeout(300);
    await inBoth(page, name);
  }
  // A row open as its leaf, and the tray.
  await page.goto('/desk');
  await page.getByRole('button', { name: /MR-CER-009/ }).click();
  await page.getByRole('button', { name: 'Open tray' }).click();
  await inBoth(page, 'Desk, open');
  await page.goto('/circulations');
  await page.getByRole('button', { name: /MR-WI-052/ }).click();
  await expect(page.getByRole('button', { name: 'Remind Oskar' })).toBeVisible();
  await inBoth(page, 'Circulations, open');
  await page.goto(`/circulations/${of('MR-AGR-021')}`);
  await page.getByRole('button', { name: /^Oskar Thiele approves/ }).click();
  await page.getByRole('button', { name: 'Reassign', exact: true }).click();
  await page.getByRole('button', { name: 'Open tray' }).click();
  await inBoth(page, 'Circulation, open');
  expect(watch.problems).toEqual([]);

  // A house that is dark is met dark.
  const night = await browser.newContext({ colorScheme: 'dark' });
  const dark = await night.newPage();
  await dark.goto('/sign-in');
  await expect(dark.locator('html')).toHaveClass(/dark/);
  const outside = await browser.newContext();
  const door = await outside.newPage();
  await door.goto('/sign-in');
  await expect(door.getByText('The demonstration: Marrowfell Ropeway')).toBeVisible();
  await inBoth(door, 'Sign-in');
  await door.getByRole('button', { name: 'Enter as Caspian Boyle' }).click();
  await expect(door.getByRole('heading', { level: 1 })).toContainText(/tasks? for you/i);
  expect((await asked(door, 'session.me', {})).me.name).toBe('Caspian Boyle');
});

test('quick: a file is sent round in under a minute, and the record is completed later', async ({ browser }) => {
  const fenna = await browserOf(browser, 'Fenna de Wit');
  const oskar = await browserOf(browser, 'Oskar Thiele');
  const { page } = fenna;
  await page.getByRole('button', { name: 'Send a file' }).click();
  await page
    .getByLabel('Choose a PDF')
    .setInputFiles({ name: 'Ski_rental-prices.pdf', mimeType: 'application/pdf', buffer: await pdfWith('Prices', 1) });
  await expect(page.getByLabel('Title')).toHaveValue('Ski rental prices');
  for (const name of ['Oskar Thiele', 'Dalia Mercer']) {
    await page.getByRole('combobox', { name: 'Add a person' }).fill(name);
    await page.getByRole('option', { name: new RegExp(name) }).click();
  }
  await page.getByRole('button', { name: 'Send to 2 people' }).dblclick();
  await expect(page.getByText('You are waiting for 2 responses in one circulation')).toBeVisible();

  // Two browsers on one circulation: what Oskar does appears with Fenna without a reload.
  await page.getByRole('button', { name: 'Open tray' }).click();
  await page.getByRole('region', { name: 'Whom you are waiting for' }).getByRole('link').first().click();
  await expect(page.getByText('2 people are asked.')).toBeVisible();
  await expect(page.getByText('not seen')).toHaveCount(2);
  await oskar.page.goto('/desk');
  await oskar.page
    .getByRole('button', { name: /Approve: MR-DOC-\d+ Ski rental prices/ })
    .first()
    .click();
  await oskar.page.getByRole('button', { name: 'Read and decide' }).click();
  await expect(page.getByText('not seen')).toHaveCount(1);
  await oskar.page.getByRole('button', { name: 'Approve', exact: true }).click();
  await oskar.page
    .getByRole('region', { name: 'Approve' })
    .getByRole('button', { name: 'Approve', exact: true })
    .click();
  await expect(page.getByText('One person is asked.')).toBeVisible();
  await expect(page.getByText(/^approved, today/)).toBeVisible();

  // Sent once, whatever the double click; completed later.
  const mine = (await asked(page, 'circulation.list', { state: 'all', filter: 'ski rental' })).rows;
  expect(mine.filter((row) => row.title === 'Ski rental prices').length).toBe(1);
  await page.goto('/desk');
  await page.getByRole('button', { name: 'Complete details' }).click();
  await page.getByRole('button', { name: 'Edit details' }).first().click();
  await page.getByLabel('Type', { exact: true }).selectOption('Briefing');
  await page.getByRole('button', { name: 'Save details', exact: true }).click();
  await expect(page.getByText('The details were filled in automatically.')).toBeHidden();

  // Reminding by hand: once an hour at most.
  await page.goto('/circulations');
  await page.getByLabel('Number, title, person or state').fill('ski rental');
  await page.getByRole('button', { name: /Ski rental prices/ }).click();
  await page.getByRole('button', { name: 'Open circulation' }).click();
  await page.getByRole('button', { name: /^Dalia Mercer approves/ }).click();
  await page.getByRole('button', { name: 'Remind', exact: true }).click();
  await expect(page.getByText(/was reminded\./)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Remind', exact: true })).toBeHidden();
  await linkFromPost(page, 'Dalia Mercer', /A reminder: please approve Ski rental prices/);
  expect(fenna.watch.problems).toEqual([]);
  expect(oskar.watch.problems).toEqual([]);
});

test('a text is written, saved as typed, kept over a reload and a lost connection, and submitted', async ({
  browser,
}) => {
  const { page, watch, context } = await browserOf(browser, 'Fenna de Wit');
  await page.getByRole('button', { name: /^Write: MR-LOG-001/ }).click();
  await page.getByRole('button', { name: 'Write draft' }).click();
  const editor = page.getByRole('textbox', { name: 'The text of the draft' });
  await editor.click();
  await page.getByRole('button', { name: 'Heading', exact: true }).click();
  await page.keyboard.type('Entries');
  await page.keyboard.press('Enter');
  await page.keyboard.type('Wind is entered ');
  await page.keyboard.press('Control+b');
  await page.keyboard.type('every day');
  await page.keyboard.press('Control+b');
  await page.keyboard.type('.');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Numbered' }).click();
  await page.keyboard.type('Read the gauge');
  await page.keyboard.press('Enter');
  await page.keyboard.type('Note the gusts');
  await expect(page.getByText(/^Saved /)).toBeVisible();
  await page.reload();
  await expect(editor.getByText('Note the gusts')).toBeVisible();
  await expect(editor.locator('strong')).toHaveText('every day');

  // Without a connection what is typed stays on the device, and is saved when the connection is back.
  await context.setOffline(true);
  await editor.getByText('Note the gusts').click();
  await page.keyboard.press('End');
  await page.keyboard.type(' at noon');
  await expect(page.getByText('Not saved yet, kept on this device')).toBeVisible();
  await context.setOffline(false);
  await expect(page.getByText(/^Saved /)).toBeVisible();

  // A letter that no page can show yet is named as soon as it was saved, marked, and keeps the text from being submitted.
  await page.keyboard.type(' חבל');
  await expect(page.getByText('hebrew letter het', { exact: false }).first()).toBeVisible();
  await expect(page.locator('[data-unset]').first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'Submit version 1' })).toBeDisabled();
  for (let i = 0; i < 4; i += 1) await page.keyboard.press('Backspace');
  await expect(page.getByRole('button', { name: 'Submit version 1' })).toBeEnabled();
  await page.getByRole('button', { name: 'Submit version 1' }).click();
  await page.getByRole('button', { name: 'Submit', exact: true }).click();
  await expect(page.getByText('Version 1 has been submitted.')).toBeVisible();
  await page.getByRole('button', { name: 'Open tray' }).click();
  await expect(page.getByRole('link', { name: 'PDF' })).toBeVisible();
  expect(watch.problems.filter((problem) => !problem.includes('ERR_INTERNET_DISCONNECTED'))).toEqual([]);
});

test('a phone signs in a width of 360, put off and come back, accessible', async ({ browser }) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  // One step from the Desk: the seat that stopped stands open, with the question whom to give it to.
  await ines.page.getByRole('button', { name: /MR-CER-009/ }).click();
  await expect(ines.page.getByText('Jarek Holm writes:')).toBeVisible();
  await ines.page.getByRole('button', { name: 'Decide how it goes on' }).click();
  await ines.page.getByRole('combobox', { name: 'Reassign to' }).fill('Sanna');
  await ines.page.getByRole('option', { name: /Sanna Virtue/ }).click();
  await ines.page.getByRole('button', { name: 'Reassign to Sanna Virtue' }).click();
  await expect(ines.page.getByText('One person is asked.')).toBeVisible();
  const link = await linkFromPost(ines.page, 'Sanna Virtue', /Certificate of readiness/);
  const { page, watch } = await phone(browser);
  await page.setViewportSize({ width: 360, height: 740 });
  await page.goto(link);
  await expect(page.getByRole('button', { name: 'Go to your field' })).toBeVisible();
  await expect(page.locator('[data-page="0"] canvas')).toBeVisible();
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(360);
  await expectAccessible(page, 'Signing page');
  await page.getByRole('button', { name: 'Go to your field' }).click();
  await page.getByRole('button', { name: 'Type', exact: true }).click();
  await expectAccessible(page, 'Signing page, a field open');
  await page.getByRole('button', { name: 'Not now' }).click();
  await expect(page.getByText('You can come back with the same link.')).toBeVisible();

  // Back another day on the same phone: what was filled in is still there.
  await page.goto(link);
  await expect(page.getByText('All fields are filled in')).toBeVisible();
  // The day of signing is nobody's to fill in.
  await page.getByRole('button', { name: 'See your fields' }).click();
  await page.getByRole('button', { name: 'Next field' }).click();
  await expect(page.getByText(/^Filled in automatically when you sign: /)).toBeVisible();
  await page.getByRole('button', { name: 'Sign', exact: true }).click();
  await page.getByText('What does signing mean?').click();
  await expectAccessible(page, 'Signing page, about to sign');
  await page.getByText('I have read the document and want to sign it electronically.').click();
  await page.getByRole('button', { name: 'Sign it' }).click();
  await expect(page.getByText('You have signed this.')).toBeVisible();
  await expectAccessible(page, 'Receipt');
  expect(watch.problems).toEqual([]);
});

test('an administrator adds a person, who chooses a password and signs in; others only look', async ({ browser }) => {
  const thea = await browserOf(browser, 'Thea Lindqvist');
  await thea.page.goto('/people');
  await thea.page.getByRole('button', { name: 'Add a person' }).click();
  await thea.page.getByLabel('Name', { exact: true }).fill('Marit Solheim');
  await thea.page.getByLabel('Email address').fill('marit@marrowfell.example');
  await thea.page.getByLabel('Job title', { exact: true }).fill('ticket office');
  await thea.page.getByRole('button', { name: 'Add and invite' }).click();
  await expect(thea.page.getByText('ticket office')).toBeVisible();
  const link = await linkFromPost(thea.page, 'Marit Solheim', /Your account/);
  const context = await browser.newContext();
  const page = await context.newPage();
  await page.goto(link);
  await page.getByLabel('Password (at least 12 characters)').fill('over the midfell span');
  await page.getByRole('button', { name: 'Set password and sign in' }).click();
  await expect(page.getByText('No tasks for you').first()).toBeVisible();
  await page.goto(link);
  await expect(page.getByText('This link no longer works')).toBeVisible();
  await context.clearCookies();
  await page.goto('/register');
  await page.getByLabel('Email address').fill('marit@marrowfell.example');
  await page.getByLabel('Password').fill('not this one at all');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByText('The email address or the password is not right.')).toBeVisible();
  await page.getByLabel('Password').fill('over the midfell span');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page).toHaveURL(/\/register$/);
  await page.goto('/people');
  await expect(page.getByText('Only an administrator can change people.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Add a person' })).toBeHidden();

  // Somebody who leaves with a seat in hand: its controller is told, and the act that helps is to give it to another.
  const ines = await browserOf(browser, 'Ines Halloran');
  const people = await asked(ines.page, 'people.find', { text: 'Marit', who: 'members' });
  const marit = people.find(({ name }) => name === 'Marit Solheim')?.id ?? '';
  const { circulation } = await told(ines.page, 'desk.sendQuick', {
    file: await uploaded(ines.page, 'tickets.pdf', await pdfWith('Tickets')),
    name: 'tickets.pdf',
    title: 'Ticket office rules',
    verb: 'read',
    people: [{ kind: 'person', person: marit }],
  });
  await ines.page.goto(`/circulations/${circulation}`);
  await expect(ines.page.getByText('One person is asked.')).toBeVisible();
  await thea.page.getByRole('button', { name: /^Marit Solheim, / }).click();
  await thea.page.getByRole('button', { name: 'Open tasks' }).click();
  await expect(thea.page.getByText(/One open task/)).toBeVisible();
  await thea.page.getByRole('button', { name: 'Deactivate' }).click();
  const asking = thea.page.getByRole('region', { name: 'Deactivate' });
  await expect(asking.getByText('They hold one open task.')).toBeVisible();
  await expectAccessible(thea.page, 'Person, deactivating');
  await asking.getByRole('button', { name: 'Deactivate' }).click();
  await expect(ines.page.getByText('Marit Solheim was deactivated and cannot respond.')).toBeVisible();
  await ines.page.getByRole('button', { name: 'Reassign Marit’s task …' }).click();
  await ines.page.getByRole('combobox', { name: 'Reassign to' }).fill('Fenna');
  await ines.page.getByRole('option', { name: /Fenna de Wit/ }).click();
  await ines.page.getByRole('button', { name: 'Reassign to Fenna de Wit' }).click();
  await expect(ines.page.getByRole('button', { name: /^Fenna de Wit confirms/ })).toBeVisible();
  await expect(ines.page.getByText('Marit Solheim was deactivated')).toBeHidden();
});

test('several fields on a phone come up one at a time, in any script, and a copied address says how to go on', async ({
  browser,
}) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const { circulation } = await told(ines.page, 'desk.sendQuick', {
    file: await uploaded(ines.page, 'winch.pdf', await pdfWith('Winch report')),
    name: 'winch.pdf',
    title: 'Winch report',
    verb: 'sign',
    people: [{ kind: 'outside', person: 'jarek' }],
  });
  const { seats, versions } = await asked(ines.page, 'circulation.view', { circulation });
  const document = versions[0]?.files.find(({ role }) => role === 'document');
  // Side by side with hardly a gap: on a phone each is a few millimetres high.
  const kinds = [
    ['signature', 0, true],
    ['initials', 0, true],
    ['name', 1, true],
    ['jobTitle', 1, false],
    ['date', 2, true],
    ['text', 2, false],
    ['tick', 3, true],
  ] as const;
  await told(ines.page, 'circulation.putFields', {
    circulation,
    file: document?.id ?? '',
    content: document?.file ?? '',
    fields: kinds.map(([kind, row, needed], i) => ({
      id: `f${i}`,
      seat: seats[0]?.id ?? '',
      file: document?.id ?? '',
      kind,
      page: 0,
      x: i % 2 ? 301 : 60,
      y: 300 + row * 31,
      width: kind === 'tick' ? 20 : 240,
      height: kind === 'tick' ? 20 : 30,
      needed,
      label: '',
    })),
  });
  const link = await linkFromPost(ines.page, 'Jarek Holm', /Please sign Winch report$/);
  const { page, watch } = await phone(browser);
  await page.goto(link);
  await expect(page.getByText(/^MR-.*Winch report|Winch report/).first()).toBeVisible();
  await expect(page.locator('[data-place]')).toHaveCount(kinds.length);
  const boxes = await page
    .locator('[data-place]')
    .evaluateAll((places) => places.map((place) => place.getBoundingClientRect().toJSON() as DOMRect));
  for (const [i, a] of boxes.entries())
    for (const b of boxes.slice(i + 1))
      expect(
        Math.min(a.right, b.right) - Math.max(a.left, b.left) > 0.5 &&
          Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 0.5,
        'no field covers another',
      ).toBe(false);

  await page.getByRole('button', { name: 'Go to your 5 fields' }).click();
  const panel = (name: string) => page.getByRole('group', { name });
  await expect(panel('Your signature')).toContainText('1 of 7');
  await expectAccessible(page, 'Signing page, the pad');
  await page.getByRole('button', { name: 'Next field' }).click();
  await expect(page.getByText('Your signature is required. Draw or type it.')).toBeVisible();
  await page.getByRole('button', { name: 'Type', exact: true }).click();
  const typed = page.getByRole('textbox', { name: 'Type your name' });
  await typed.fill('ياريك הולם 渡辺');
  await expect(panel('Your signature').locator('svg path').first()).toBeVisible();
  await typed.fill('Jarek \u{13000}');
  await expect(panel('Your signature')).toContainText('egyptian hieroglyph a001');
  await typed.fill('ياريك הולם 渡辺');
  await page.getByRole('button', { name: 'Use this signature' }).click();
  await expect(panel('Your initials')).toBeVisible();
  await page.getByRole('button', { name: 'Type', exact: true }).click();
  await page.getByRole('button', { name: 'Use these initials' }).click();
  await expect(panel('Your name').getByRole('textbox')).toHaveValue('Jarek Holm');
  await page.getByRole('button', { name: 'Use this' }).click();
  await expect(panel('Your date')).toBeVisible();
  await page.getByRole('button', { name: 'Previous field' }).click();
  await expect(panel('Your job title')).toContainText('optional');
  await page.getByRole('button', { name: 'Next field' }).last().click();
  await panel('Your date').getByRole('textbox').fill('5 Jan 2027');
  await page.keyboard.press('Tab');
  await page.getByRole('button', { name: 'Use this' }).click();
  await page.getByRole('button', { name: 'Sign', exact: true }).click();
  await expect(page.getByText('This needs a tick.')).toBeVisible();
  await panel('Your tick box').getByText('Tick', { exact: true }).click();
  await expectAccessible(page, 'Signing page, a tick');
  await page.getByRole('button', { name: 'Use this' }).click();
  await page.getByText('I have read the document and want to sign it electronically.').click();
  await page.getByRole('button', { name: 'Back to the document' }).click();

  // A page is read closely without anything of it being lost.
  const wide = () => page.locator('[data-page="0"]').evaluate((one) => one.getBoundingClientRect().width);
  const before = await wide();
  await page.getByRole('button', { name: 'Enlarge the page' }).click();
  await expect.poll(wide).toBeGreaterThan(before * 1.4);
  await page.getByRole('button', { name: 'Reduce the page' }).click();
  await expect.poll(wide).toBeLessThan(before * 1.1);

  // The address from the bar of one device, typed into another: no code travels with it.
  const other = await phone(browser);
  await other.page.goto(page.url());
  await expect(other.page.getByText('This page opens only where the link was first opened.')).toBeVisible();
  await expectAccessible(other.page, 'A copied address');

  await page.getByRole('button', { name: 'Sign', exact: true }).click();
  await page.getByRole('button', { name: 'Sign it' }).click();
  await expect(page.getByText('You have signed this.')).toBeVisible();
  expect(watch.problems.filter((problem) => !problem.includes('422'))).toEqual([]);
});

test('a member forgets the password, chooses another from a phone, and mends their own page; types are turned off', async ({
  browser,
}) => {
  const thea = await browserOf(browser, 'Thea Lindqvist');
  await thea.page.goto('/people?add');
  await thea.page.getByLabel('Name', { exact: true }).fill('Halvor Lie');
  await thea.page.getByLabel('Email address').fill('halvor@marrowfell.example');
  // What was typed is still there after a reload, and in another tab.
  await thea.page.reload();
  await expect(thea.page.getByLabel('Name', { exact: true })).toHaveValue('Halvor Lie');
  await thea.page.getByLabel('Email address').fill('petra@marrowfell.example');
  await thea.page.getByRole('button', { name: 'Add and invite' }).click();
  await expect(thea.page.getByText('Somebody with this email address is already here.')).toBeVisible();
  await expect(thea.page.getByLabel('Email address')).toHaveAttribute('aria-invalid', 'true');
  await thea.page.getByLabel('Email address').fill('halvor@marrowfell.example');
  await thea.page.getByRole('button', { name: 'Add and invite' }).click();
  const first = await linkFromPost(thea.page, 'Halvor Lie', /Your account/);
  await thea.page.getByRole('button', { name: /^Halvor Lie, / }).click();
  await thea.page.getByRole('button', { name: 'Copy invitation link' }).click();
  const { page, watch } = await phone(browser);
  await page.goto(first);
  await expect(page.getByText('This link no longer works')).toBeVisible();
  await expect(thea.page.getByText('That you copied it is on record.')).toBeVisible();
  await thea.page.getByRole('button', { name: 'Send invitation again' }).click();
  await expect.poll(() => linkFromPost(thea.page, 'Halvor Lie', /Your account/)).not.toBe(first);
  await page.goto(await linkFromPost(thea.page, 'Halvor Lie', /Your account/));
  await page.getByLabel('Password (at least 12 characters)').fill('over the midfell span');
  await page.getByRole('button', { name: 'Set password and sign in' }).click();
  await expect(page.getByText('No tasks for you').first()).toBeVisible();

  const other = await phone(browser);
  await other.page.goto('/sign-in');
  await other.page.getByRole('button', { name: 'Forgotten your password?' }).click();
  await expectAccessible(other.page, 'Forgotten');
  await other.page.getByLabel('Email address').fill('halvor@marrowfell.example');
  await other.page.getByRole('button', { name: 'Send the link' }).click();
  await expect(other.page.getByText('a link is on its way')).toBeVisible();
  await other.page.goto(await linkFromPost(thea.page, 'Halvor Lie', /A new password/));
  await expect(other.page.getByText('For Halvor Lie at Marrowfell Ropeway.')).toBeVisible();
  await other.page.getByLabel('Password (at least 12 characters)').fill('under the summit crew');
  await other.page.getByRole('button', { name: 'Set password and sign in' }).click();
  await expect(other.page.getByText('No tasks for you').first()).toBeVisible();
  await page.goto('/desk');
  await expect(page).toHaveURL(/sign-in/);

  await other.page.goto('/me');
  await other.page.getByLabel('Name', { exact: true }).fill('Halvor Lie-Strand');
  await other.page.getByLabel('Time zone').fill('Mars');
  await other.page.getByRole('button', { name: 'Save' }).click();
  await expect(other.page.getByText('Choose a time zone such as Europe/Oslo.')).toBeVisible();
  await other.page.getByLabel('Time zone').fill('Europe/London');
  await other.page.getByRole('button', { name: 'Save' }).click();
  await expect(other.page.getByRole('button', { name: 'Halvor Lie-Strand: menu' })).toBeVisible();
  await expect(thea.page.getByText('Halvor Lie-Strand').first()).toBeVisible();
  await expectAccessible(other.page, 'Own page on a phone');

  await thea.page.goto('/types');
  await thea.page.getByRole('button', { name: /^Briefing, / }).click();
  await thea.page.getByText('On: new documents can be of this type').click();
  await thea.page.getByRole('button', { name: 'Save' }).click();
  await expect(thea.page.getByText('“Briefing” was saved.')).toBeVisible();
  await expectAccessible(thea.page, 'Document types, open');
  await other.page.goto('/register/new');
  await expect(other.page.getByRole('option', { name: /Procedure/ })).toBeAttached();
  await expect(other.page.getByRole('option', { name: /Briefing/ })).toHaveCount(0);
  // Its leaf stays open where it went.
  await thea.page.getByText('On: new documents can be of this type').click();
  await thea.page.getByRole('button', { name: 'Save' }).click();
  expect(
    [...thea.watch.problems, ...watch.problems, ...other.watch.problems].filter((one) => !/4(09|22|10|01)/.test(one)),
  ).toEqual([]);
});
