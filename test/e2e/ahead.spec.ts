import { asked, browserOf, expect, expectAccessible, sent, stageOf, test, told } from './people';

// The first of the walks: what people do within seconds in the others would become the past that is forecast from.

test('says when it will be released, and on the next day why that has moved', async ({ browser }) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const rufus = await browserOf(browser, 'Rufus Adeyemi');
  const { page } = ines;
  const circulation = await sent(page, rufus.page, `Foresight ${crypto.randomUUID().slice(0, 6)}`, [
    stageOf('review', ['yuki']),
    stageOf('approve', ['oskar']),
  ]);
  await page.goto(`/circulations/${circulation}`);
  await expect(page.getByText(/released by .* in four of five cases/)).toBeVisible();
  await expect(page.getByText(/^Release by /)).toBeVisible();
  await page.getByRole('button', { name: 'Open tray' }).click();
  await expect(page.getByText('What decides it')).toBeVisible();
  await expect(page.getByText(/Oskar Thiele, Approve, in/)).toBeVisible();
  await expectAccessible(page, 'circulation with a forecast');
  const before = await page.getByText(/released by .* in four of five cases/).textContent();
  // The demonstration's clock goes to a Thursday afternoon with working days before it, and nobody responds.
  const hour = 3_600_000;
  const { now } = await told(page, 'clock.forward', { hours: 1 });
  let thursday = Math.floor(now / (24 * hour)) * 24 * hour + 14 * hour;
  while (new Date(thursday).getUTCDay() !== 4 || thursday < now + 60 * hour) thursday += 24 * hour;
  await told(page, 'clock.forward', { hours: Math.round((thursday - now) / hour) });
  // Everything under way is forecast anew that day, and this one comes in its turn.
  const forecastAt = async () => (await asked(page, 'circulation.view', { circulation })).forecast?.forecast?.at ?? 0;
  await expect.poll(forecastAt, { timeout: 120_000 }).toBeGreaterThan(now + 48 * hour);
  await page.goto(`/circulations/${circulation}`);
  await page.getByRole('button', { name: 'Open tray' }).click();
  await expect(page.getByText(/Time went by without a response from Yuki Arden/)).toBeVisible();
  await expect(page.getByText(/released by .* in four of five cases/)).not.toHaveText(before ?? '');
  for (const one of [ines, rufus]) expect(one.watch.problems).toEqual([]);
});
