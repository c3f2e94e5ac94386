import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import type { Page } from '@playwright/test';
import { browserOf, expect, linkFromPost, pdfWith, phone, test } from './people';

const row = (page: Page, name: RegExp) => page.getByRole('button', { name, expanded: false });

/** Opens the Desk's row of a document and does the one thing that is due. */
async function doFromDesk(page: Page, document: string, action: string) {
  await page.goto('/desk');
  await row(page, new RegExp(document)).first().click();
  await page.getByRole('button', { name: action, exact: true }).click();
}

async function addPeople(page: Page, ...names: string[]) {
  for (const name of names) {
    await page.getByRole('combobox', { name: 'Add a person, group or role to this stage' }).fill(name);
    await page.getByRole('option', { name: new RegExp(name) }).click();
  }
}

test('by the book: eight people carry MR-PRO-019 from a change to a released revision', async ({ browser }) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const rufus = await browserOf(browser, 'Rufus Adeyemi');

  // Ines starts a change with a reason and names its author.
  await ines.page.goto('/register');
  await row(ines.page, /MR-PRO-019/).click();
  await ines.page.getByRole('button', { name: 'Open document' }).click();
  await ines.page.getByRole('button', { name: 'Start a change' }).click();
  await ines.page.getByLabel('Reason for the change').fill('New torque values for the caliper');
  await ines.page.getByRole('button', { name: 'Ask Rufus Adeyemi to write it' }).click();
  await expect(ines.page.getByRole('heading', { level: 1 })).toHaveText('Plan Brake test of the drive');

  // She plans on the line while the draft is being written.
  await ines.page.getByRole('button', { name: 'Add a stage', exact: true }).click();
  await addPeople(ines.page, 'Yuki Arden', 'Petra Novak');
  await ines.page.getByLabel('Due', { exact: true }).fill('15 Jan 2030');
  await ines.page.keyboard.press('Enter');
  await expect(ines.page.getByText('Tue 15 Jan 2030, 16:00', { exact: true })).toBeVisible();
  await ines.page.getByRole('button', { name: 'Add a stage at the end' }).click();
  await addPeople(ines.page, 'Oskar Thiele');
  await ines.page.getByRole('button', { name: 'Add a stage at the end' }).click();
  await addPeople(ines.page, 'Benedikt Rowe', 'Jarek Holm');
  await ines.page.getByLabel('Message to everyone you ask (optional)').fill('Please look at the torque table.');
  await expect(ines.page.getByText('Saved', { exact: true })).toBeVisible();
  await expect(ines.page.getByText('No draft has been submitted yet.')).toBeVisible();
  const circulation = /circulations\/([^/]+)/.exec(ines.page.url())?.[1] ?? '';

  // Rufus finds "Write" on his Desk and hands in a PDF, kept byte for byte.
  const first = await pdfWith('Brake test, first draft');
  await doFromDesk(rufus.page, 'Write: MR-PRO-019', 'Write draft');
  await rufus.page.getByText('Upload a PDF (kept unchanged)').click();
  await rufus.page
    .getByLabel('Choose a PDF')
    .setInputFiles({ name: 'brake test.pdf', mimeType: 'application/pdf', buffer: first });
  await expect(rufus.page.getByText('2 pages')).toBeVisible();
  await rufus.page.getByRole('button', { name: 'Submit version 1' }).click();
  await rufus.page.getByRole('button', { name: 'Submit', exact: true }).click();
  await expect(rufus.page.getByText('Version 1 has been submitted.')).toBeVisible();

  // Live: the planner learns of the draft without a reload. Ines looks and sends.
  await expect(ines.page.getByRole('button', { name: 'Send to 2 people …' })).toBeEnabled();
  await expect(ines.page.getByText('has no signature field yet').first()).toBeVisible();
  await ines.page.getByRole('button', { name: 'Send to 2 people …' }).click();
  await ines.page.getByRole('button', { name: 'Send to 2 people', exact: true }).click();
  await expect(ines.page.getByText('2 people are asked.')).toBeVisible();

  // Yuki gets a message, opens the draft from it, comments on a spot, and returns it with a reason.
  const yuki = await browserOf(browser, 'Yuki Arden');
  const mail = await linkFromPost(ines.page, 'Yuki Arden', /Please review Brake test/);
  await yuki.page.goto(mail);
  await yuki.page.locator('[data-page="0"]').click({ position: { x: 200, y: 160 } });
  await yuki.page.getByLabel('Your comment').fill('Which wrench?');
  await yuki.page.getByRole('button', { name: 'Comment', exact: true }).click();
  await expect(yuki.page.getByRole('button', { name: 'Yuki Arden: Which wrench?' })).toBeVisible();

  // Petra has the same version open.
  const petra = await browserOf(browser, 'Petra Novak');
  await doFromDesk(petra.page, 'Review: MR-PRO-019', 'Read and review');
  await expect(petra.page.locator('[data-page="0"] canvas')).toBeVisible();

  await yuki.page.getByRole('button', { name: 'Return …' }).click();
  await yuki.page.getByLabel('Reason').fill('The table is for the old drive.');
  await yuki.page.getByRole('button', { name: 'Return for rework' }).click();
  await expect(yuki.page).toHaveURL(/desk/);
  await expect(ines.page.getByText('Returned for rework. Waiting for Rufus Adeyemi’s next version.')).toBeVisible();

  // Rufus hands in the next version; Petra, who has the older one open, is told and cannot decide on it.
  await doFromDesk(rufus.page, 'Rework: MR-PRO-019', 'Open draft');
  await expect(rufus.page.getByText('The table is for the old drive.')).toBeVisible();
  await rufus.page.getByRole('button', { name: 'Choose another PDF' }).click();
  await rufus.page.getByLabel('Choose a PDF').setInputFiles({
    name: 'brake test 2.pdf',
    mimeType: 'application/pdf',
    buffer: await pdfWith('Brake test, second draft'),
  });
  await expect(rufus.page.getByText('brake test 2.pdf')).toBeVisible();
  await rufus.page.getByRole('button', { name: 'Submit version 2' }).click();
  await rufus.page.getByLabel('What has changed? (optional)').fill('New table');
  await rufus.page.getByRole('button', { name: 'Submit', exact: true }).click();
  await expect(petra.page.getByText('Version 2 has been submitted meanwhile.')).toBeVisible();
  await expect(petra.page.getByRole('button', { name: 'Complete review' })).toBeHidden();

  // Ines confirms who is asked again; round two runs.
  await ines.page.getByRole('button', { name: 'Review next round' }).click();
  await expect(ines.page.getByText('was being asked')).toBeVisible();
  await ines.page.getByRole('button', { name: 'Start round; 2 people are asked again' }).click();
  await expect(ines.page.getByText('2 people are asked.')).toBeVisible();
  await petra.page.getByRole('button', { name: 'Open newest version' }).click();
  for (const { page } of [petra, yuki]) {
    if (page === yuki.page) await doFromDesk(page, 'Review: MR-PRO-019', 'Read and review');
    await page.getByRole('button', { name: 'Complete review' }).click();
    await page
      .getByRole('region', { name: 'Complete review' })
      .getByRole('button', { name: 'Complete review' })
      .click();
    await expect(page).toHaveURL(/desk/);
  }

  // Oskar approves with a comment.
  const oskar = await browserOf(browser, 'Oskar Thiele');
  await doFromDesk(oskar.page, 'Approve: MR-PRO-019', 'Read and decide');
  await oskar.page.getByRole('button', { name: 'Approve', exact: true }).click();
  await oskar.page.getByLabel('Comment (optional)').fill('Mind the units.');
  await oskar.page.getByRole('button', { name: 'Approve with comments' }).click();
  await expect(oskar.page).toHaveURL(/desk/);

  // Signing is reached and waits; the last missing place opens it.
  await expect(ines.page.getByRole('button', { name: 'Place fields' })).toBeVisible();
  await ines.page.getByRole('button', { name: 'Place fields' }).click();
  await expect(ines.page.locator('[data-page="0"] canvas')).toBeVisible();
  await ines.page.locator('[data-page="0"]').click({ position: { x: 220, y: 300 } });
  await ines.page.keyboard.press('Escape');
  await ines.page.locator('[data-page="0"]').click({ position: { x: 220, y: 420 } });
  await expect(ines.page.getByText('Everybody who signs has a field.')).toBeVisible();
  await ines.page.getByRole('button', { name: 'Save fields' }).click();
  await expect(ines.page.getByText('2 people are asked.')).toBeVisible();

  // Benedikt signs first, inside, with a typed signature.
  const benedikt = await browserOf(browser, 'Benedikt Rowe');
  await doFromDesk(benedikt.page, 'Sign: MR-PRO-019', 'Read and sign');
  await benedikt.page.getByRole('button', { name: 'Go to your field' }).click();
  await benedikt.page.getByRole('button', { name: 'Type', exact: true }).click();
  await benedikt.page.getByRole('button', { name: 'Use this signature' }).click();
  await benedikt.page.getByText('I have read the document and want to sign it electronically.').click();
  await benedikt.page.getByRole('button', { name: 'Sign it' }).click();
  await expect(benedikt.page.getByText('You have signed this.')).toBeVisible();

  // Jarek declines from his phone, with a reason.
  const toJarek = await linkFromPost(ines.page, 'Jarek Holm', /Please sign Brake test/);
  const jarek = await phone(browser);
  await jarek.page.goto(toJarek);
  await expect(jarek.page).toHaveURL(/\/sign\/[^.]+$/);
  await expect(jarek.page.getByText('Ines Halloran, Marrowfell Ropeway, asks you to sign')).toBeVisible();
  await expect(jarek.page.getByText('1 of 2 have signed')).toBeVisible();
  await expect(jarek.page.locator('[data-page="0"] canvas')).toBeVisible();
  await jarek.page.getByRole('button', { name: 'Decline …' }).click();
  await jarek.page.getByLabel('Reason').fill('The drive is not my district.');
  await jarek.page.getByRole('button', { name: 'Decline', exact: true }).click();
  await expect(jarek.page.getByText('You have declined this.')).toBeVisible();

  // His seat waits for Ines; she gives it to Sanna. Benedikt's signature stands, Jarek's link shows nothing more.
  await ines.page.goto(`/circulations/${circulation}`);
  await ines.page.getByRole('button', { name: 'Reassign Jarek’s task …' }).click();
  await ines.page.getByRole('combobox', { name: 'Reassign to' }).fill('Sanna');
  await ines.page.getByRole('option', { name: /Sanna Virtue/ }).click();
  await ines.page.getByRole('button', { name: 'Reassign to Sanna Virtue' }).click();
  await expect(ines.page.getByText('One person is asked.')).toBeVisible();
  await jarek.page.goto(toJarek);
  await expect(jarek.page.getByText('This was reassigned to somebody else.')).toBeVisible();
  await expect(jarek.page.locator('canvas')).toHaveCount(0);

  // Sanna draws her signature on the phone.
  const toSanna = await linkFromPost(ines.page, 'Sanna Virtue', /Please sign Brake test/);
  const sanna = await phone(browser);
  await sanna.page.goto(toSanna);
  await sanna.page.getByRole('button', { name: 'Go to your field' }).click();
  const pad = sanna.page.getByRole('img', { name: 'Draw' });
  await expect(pad).toBeVisible();
  const box = await pad.boundingBox();
  if (!box) throw new Error('no pad');
  await sanna.page.mouse.move(box.x + 30, box.y + 70);
  await sanna.page.mouse.down();
  for (let i = 1; i <= 12; i += 1) await sanna.page.mouse.move(box.x + 30 + i * 14, box.y + 60 + (i % 2 ? -24 : 20));
  await sanna.page.mouse.up();
  await sanna.page.getByRole('button', { name: 'Use this signature' }).click();
  await sanna.page.getByText('I have read the document and want to sign it electronically.').click();
  await sanna.page.getByRole('button', { name: 'Sign it' }).click();
  await expect(sanna.page.getByText('You have signed this.')).toBeVisible();

  // The final file is made and stored; Ines releases.
  await expect(ines.page.getByRole('button', { name: 'Release revision B' })).toBeVisible();
  await ines.page.getByRole('button', { name: 'Release revision B' }).click();
  await expect(ines.page.getByText('revision A is superseded')).toBeVisible();
  await ines.page.getByRole('button', { name: 'Release', exact: true }).click();
  await expect(ines.page.getByText('Released as revision B, today.')).toBeVisible();

  // The current revision stands in the Register; what is served is judged by programs that are not ours.
  await ines.page.getByRole('button', { name: 'Open in Register' }).click();
  await expect(ines.page.getByText('superseded')).toBeVisible();
  const record = /register\/([^/]+)/.exec(ines.page.url())?.[1];
  const folder = mkdtempSync(path.join(os.tmpdir(), 'released-'));
  const fetched = async (part: string) => {
    const answer = await ines.page.request.get(`/file/record/${record}/${part}`);
    const file = path.join(folder, part.replace('/', ' '));
    writeFileSync(file, await answer.body());
    execFileSync('qpdf', ['--check', file]);
    const text = execFileSync('pdftotext', ['-layout', file, '-']).toString();
    return {
      bytes: await answer.body(),
      text,
      hash: createHash('sha256')
        .update(await answer.body())
        .digest('hex'),
    };
  };
  const released = await fetched('B');
  for (const words of ['Brake test, second draft, page 2', 'Benedikt Rowe']) expect(released.text).toContain(words);
  expect(released.text).not.toContain('first draft');
  const evidence = await fetched('B/evidence');
  for (const words of ['Evidence sheet', 'Benedikt Rowe', 'Sanna Virtue', 'signed', 'Mind the units.'])
    expect(evidence.text).toContain(words);
  // It says which file it is about.
  expect(evidence.text.replace(/\s+/g, '')).toContain(released.hash);

  // Messages with the copy follow; the receipt holds it.
  await linkFromPost(ines.page, 'Sanna Virtue', /Your copy of Brake test/);
  await sanna.page.goto(toSanna);
  const copy = sanna.page.getByRole('link', { name: 'Download your copy' });
  await expect(copy).toBeVisible();
  const hers = await sanna.page.request.get((await copy.getAttribute('href')) ?? '');
  expect((await hers.body()).equals(released.bytes)).toBe(true);

  for (const { watch } of [ines, rufus, yuki, petra, oskar, benedikt, sanna]) expect(watch.problems).toEqual([]);
  // A link that went to somebody else is answered with 410, which the browser notes.
  expect(jarek.watch.problems.filter((problem) => !problem.includes('410'))).toEqual([]);
});
