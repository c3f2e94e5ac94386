import { asked, browserOf, expect, test, told } from './people';

const loaded = { 'sec-fetch-dest': 'document' };

test('a page comes with its first answers, to whom they belong, and writes nothing', async ({ browser }) => {
  const { page, context, watch } = await browserOf(browser, 'Ines Halloran');
  const title = 'Ice </script><script>window.broken = true</script> & “wind”';
  const { record } = await told(page, 'record.create', { title, documentType: 'WI', owner: 'fenna' });
  const html = async (address: string) => {
    const answer = await context.request.get(address, { headers: loaded });
    expect(answer.headers()['cache-control'], address).toMatch(/private.*no-store|no-store.*private/);
    return answer.text();
  };

  // Rows and names as plain elements, at most twenty of them, and nothing said that is not known.
  const desk = await html('/desk');
  expect(desk).toMatch(/data-row="[^"]+"/);
  expect(desk).toContain('Rope inspection procedure');
  expect(desk).not.toContain('Loading');
  const list = await html('/register');
  expect(list.match(/data-row=/g)?.length).toBe(20);
  const [first] = (await asked(page, 'register.list', { filter: '' })).rows;
  const [owner] = await asked(page, 'people.named', { people: [first?.owner ?? ''] });
  expect(list).toContain(owner?.name);
  expect(list.match(/class="look-row/g)?.length).toBeGreaterThan(20);

  // A title is a title, also within the answers that come in the HTML.
  await page.goto(`/register/${record}`);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(title);
  expect(await page.evaluate(() => 'broken' in window)).toBe(false);
  expect(await html(`/register/${record}`)).not.toContain('</script><script>window.broken');

  // What one may not see is not handed on either.
  const yuki = await browserOf(browser, 'Yuki Arden');
  const briefing = (await asked(page, 'circulation.list', { state: 'all', filter: 'C-' })).rows;
  const others = (await asked(yuki.page, 'circulation.list', { state: 'all', filter: 'C-' })).rows;
  const hidden = briefing.find(({ id }) => !others.some((other) => other.id === id));
  if (!hidden) throw new Error('Yuki sees all circulations');
  const refused = await yuki.context.request.get(`/circulations/${hidden.id}`, { headers: loaded });
  expect(await refused.text()).not.toContain(hidden.title);

  // Loading a page, and asking ahead for one, is not opening it.
  const noor = await browserOf(browser, 'Noor Castellan');
  const { rows } = await asked(noor.page, 'desk.tasks', { filter: '' });
  const task = rows.find(({ doing }) => doing === 'review');
  if (!task) throw new Error('Noor has nothing to review');
  const before = await asked(page, 'circulation.view', { circulation: task.circulation });
  await noor.context.request.get(`/circulations/${task.circulation}/act/${task.seat}`, { headers: loaded });
  const after = await asked(page, 'circulation.view', { circulation: task.circulation });
  expect(after.trail.length).toBe(before.trail.length);

  // Gone after signing out.
  await told(page, 'session.end', {});
  const out = await context.request.get('/desk', { headers: loaded, maxRedirects: 0 });
  expect(out.status()).toBe(307);
  expect(await out.text()).not.toContain('Rope inspection procedure');
  expect([...watch.problems, ...yuki.watch.problems]).toEqual([]);
});

test('a link asks ahead while one rests on it; what was pressed before a page was alive is done', async ({
  browser,
}) => {
  const { page, watch } = await browserOf(browser, 'Ines Halloran');
  const asks: string[] = [];
  page.on('request', (request) => {
    const name = /\/ask\/(.+)$/.exec(request.url())?.[1];
    if (name) asks.push(name);
  });
  await page.goto('/desk');
  await page.waitForLoadState('networkidle');
  // The page itself came with its answers.
  expect(asks.filter((name) => name.startsWith('desk.tasks'))).toEqual([]);
  const link = page.getByRole('link', { name: 'Register' });
  await link.hover();
  await expect.poll(() => asks).toContain('register.list');
  asks.length = 0;
  await link.click();
  await expect(page.getByRole('heading', { level: 1, name: 'Register' })).toBeVisible();
  await expect(page.getByRole('button', { name: /^MR-AGR-018/ })).toBeVisible();
  expect(asks).not.toContain('register.list');
  await page.goBack();

  // Scripts that are slow to come: the page is there, and a press on it counts.
  let release = () => {};
  const held = new Promise<void>((resolve) => {
    release = resolve;
  });
  await page.route('**/*.js', async (route) => {
    await held;
    await route.continue();
  });
  await page.evaluate(() => location.assign('/circulations'));
  const row = page.getByRole('button', { name: /MR-CER-009/ });
  await row.click();
  await expect(row).toHaveAttribute('aria-expanded', 'false');
  release();
  await expect(row).toHaveAttribute('aria-expanded', 'true');
  expect(watch.problems).toEqual([]);
});
