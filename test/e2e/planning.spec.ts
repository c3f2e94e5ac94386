import type { Locator, Page } from '@playwright/test';
import type { Route } from '@/core/route/route';
import { asked, browserOf, expect, expectAccessible, pdfWith, test, told, uploaded } from './people';

/** A hand that counts: each press of the mouse or of a key is an act, and so is a word that is typed without a pause. */
class Hand {
  acts = 0;
  readonly page: Page;
  constructor(page: Page) {
    this.page = page;
  }
  async click(target: Locator): Promise<void> {
    this.acts += 1;
    await target.click();
  }
  /** A choice of a list by mouse: one press opens it, one chooses. */
  async choose(label: string, option: string): Promise<void> {
    this.acts += 2;
    await this.page.getByLabel(label, { exact: true }).selectOption({ label: option });
  }
  async type(words: string): Promise<void> {
    this.acts += 1;
    await this.page.keyboard.type(words);
  }
  async press(...keys: string[]): Promise<void> {
    for (const key of keys) {
      this.acts += 1;
      await this.page.keyboard.press(key);
    }
  }
}

/** An agreement with a bundle of two documents, submitted by Dalia, whose route is still to be planned. */
async function agreement(ines: Page, dalia: Page, title: string): Promise<string> {
  const { record } = await told(ines, 'record.create', { title, documentType: 'AGR', owner: 'dalia' });
  const { circulation, change } = await told(ines, 'change.start', {
    records: [record],
    reason: 'New terms',
    author: 'dalia',
  });
  const { edit, documents } = await asked(dalia, 'draft.view', { change });
  const first = await uploaded(dalia, 'terms.pdf', await pdfWith('Terms'));
  const set = await told(dalia, 'draft.setFile', {
    change,
    edit,
    document: documents[0]?.id ?? '',
    file: first,
    name: 'terms.pdf',
  });
  const second = await uploaded(dalia, 'prices.pdf', await pdfWith('Prices', 1));
  await told(dalia, 'draft.addDocument', { change, edit: set.edit, file: second, name: 'prices.pdf' });
  await told(dalia, 'draft.submit', { change, note: null });
  return circulation;
}

/** A route in a few words, without its ids, for comparing two of them. */
function inWords(route: Route): unknown {
  if (route.kind === 'series') return route.parts.map(inWords);
  if (route.kind === 'parallel')
    return { all: route.join.kind === 'all', branches: route.branches.map((branch) => inWords(branch.route)) };
  const who = (assignment: { readonly kind: string; readonly person?: string }) => assignment.person ?? assignment.kind;
  if (route.kind === 'copies') return `copies ${route.to.map((one) => who(one.assignment)).join(' ')}`;
  const { verb, order, rule, onReturn, condition, earliest, seats } = route;
  return [
    `${verb} ${seats.map((seat) => who(seat.assignment)).join(' ')}`,
    order === 'oneByOne' ? 'one by one' : '',
    rule.kind === 'all' ? '' : rule.kind,
    onReturn === 'gather' ? 'gathered' : '',
    condition?.kind === 'fact' && condition.value.kind === 'amount'
      ? `${condition.fact} ${condition.is} ${condition.value.thousandths / 1000} ${condition.value.currency}`
      : '',
    earliest?.kind === 'date' ? 'earliest' : '',
  ]
    .filter(Boolean)
    .join(', ');
}

const lotte = async (page: Page) => {
  const found = await asked(page, 'people.find', { text: 'Lotte', who: 'anybody' });
  return found[0]?.id ?? '';
};

const wanted = (outsider: string) => [
  'review petra rufus yuki, gathered',
  {
    all: true,
    branches: [
      ['approve noor'],
      ['review yuki', { all: true, branches: [['approve oskar caspian, any'], ['approve rufus']] }],
    ],
  },
  'approve benedikt, amount over 100000 EUR',
  'copies fenna',
  `sign ${outsider} benedikt, one by one, earliest`,
];

/** What is saved of a plan, once it is. */
async function savedRoute(page: Page, circulation: string): Promise<unknown> {
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  return inWords((await asked(page, 'circulation.view', { circulation })).route);
}

test('the agreement’s route is planned by mouse alone, and by keyboard alone, in few acts', async ({ browser }) => {
  test.setTimeout(400_000);
  const ines = await browserOf(browser, 'Ines Halloran');
  const dalia = await browserOf(browser, 'Dalia Mercer');
  const { page } = ines;
  const outsider = await lotte(page);

  // By mouse. What stands in no list is typed, and counts.
  const byMouse = await agreement(page, dalia.page, 'Winter road agreement');
  await page.goto(`/circulations/${byMouse}/plan`);
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  const mouse = new Hand(page);
  const button = (name: string | RegExp) => page.getByRole('button', { name, exact: typeof name === 'string' });
  const pick = async (...names: string[]) => {
    for (const name of names) await mouse.click(button(`Add ${name}`));
  };
  const find = async (name: string) => {
    await mouse.type(name);
    await mouse.click(page.getByRole('option', { name: new RegExp(`^${name}`) }));
  };
  await mouse.click(button('Add a stage'));
  await pick('Petra Novak', 'Rufus Adeyemi', 'Yuki Arden');
  await mouse.choose('If somebody returns it', 'collect all responses');
  await mouse.click(button('Stage after it …'));
  await pick('Noor Castellan');
  await mouse.click(button('Branch beside it …'));
  await pick('Yuki Arden');
  await mouse.choose('Task', 'Review');
  await mouse.click(button('Stage after it …'));
  await pick('Oskar Thiele', 'Caspian Boyle');
  await mouse.choose('Complete when', 'any one has');
  await mouse.click(button('Branch beside it …'));
  await pick('Rufus Adeyemi');
  await mouse.click(button('Add a stage at the end'));
  await find('Benedikt Rowe');
  await mouse.choose('Task', 'Approve');
  await mouse.click(button('Only when …'));
  await mouse.type('100,000');
  await mouse.click(button('Close'));
  await mouse.click(button('Copy to …'));
  await pick('Fenna de Wit');
  await mouse.click(button('Add a stage at the end'));
  await find('Lotte');
  await find('Benedikt Rowe');
  await mouse.choose('Order', 'one by one');
  await mouse.click(button('Not before …'));
  await mouse.type('14 Dec 2029');
  await mouse.click(button('Close'));
  expect(await savedRoute(page, byMouse)).toEqual(wanted(outsider));
  expect(mouse.acts).toBeLessThanOrEqual(40);
  await expectAccessible(page, 'Planner');

  // By keyboard: nothing but keys from here.
  const byKeys = await agreement(page, dalia.page, 'Summer road agreement');
  await page.goto(`/circulations/${byKeys}/plan`);
  await expect(page.getByText('Saved', { exact: true })).toBeVisible();
  const keys = new Hand(page);
  const who = page.getByRole('combobox', { name: /^(Add a person|Who gets a copy)/ });
  const ask = async (...names: string[]) => {
    for (const name of names) {
      await expect(who).toBeFocused();
      await keys.type(name);
      await keys.press('Enter');
      await expect(who).toHaveValue('');
    }
  };
  await keys.press('n');
  await ask('petra', 'rufus', 'yuki');
  await keys.press('Tab', 'Tab', 'Tab', 'Tab', 'c');
  await keys.press('Alt+n');
  await ask('noor');
  await keys.press('Alt+b');
  await ask('yuki');
  await keys.press('Tab', 'r');
  await keys.press('Alt+n');
  await ask('oskar', 'caspian');
  await keys.press('Tab', 'Tab', 'a');
  await keys.press('Alt+b');
  await ask('rufus');
  await keys.press('Alt+Shift+n');
  await ask('benedikt');
  await keys.press('Tab', 'a');
  await keys.press('Alt+o');
  await keys.type('100,000');
  await keys.press('Enter', 'Escape', 'c');
  await ask('fenna');
  await keys.press('Alt+Shift+n');
  await ask('lotte', 'benedikt');
  await keys.press('Tab', 'Tab', 'Tab', 'o');
  await keys.press('Alt+e');
  await keys.type('14 Dec 2029');
  await keys.press('Enter');
  expect(await savedRoute(page, byKeys)).toEqual(wanted(outsider));
  expect(keys.acts).toBeLessThanOrEqual(60);
  test.info().annotations.push({ type: 'acts', description: `mouse ${mouse.acts}, keyboard ${keys.acts}` });

  // Taken back and made again, a step at a time.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => savedRoute(page, byKeys)).not.toEqual(wanted(outsider));
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect.poll(() => savedRoute(page, byKeys)).toEqual(wanted(outsider));

  // A seat is dragged between ropes: what will happen is said before it is let go.
  const seat = (name: string) => page.locator('[data-place]').filter({ hasText: `${name} is not yet asked` });
  const middle = async (of: Locator) => {
    const box = await of.boundingBox();
    if (!box) throw new Error('not in sight');
    return { x: box.x + box.width / 2, y: box.y + box.height * 0.6 };
  };
  const from = await middle(seat('Fenna de Wit').or(seat('Yuki Arden')).first());
  const to = await middle(seat('Noor Castellan').first());
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(from.x - 20, from.y + 6, { steps: 3 });
  await page.mouse.move(to.x + 34, to.y, { steps: 6 });
  await expect(page.getByText('Yuki Arden is asked to approve beside the others')).toBeVisible();
  await page.mouse.up();
  await expect.poll(async () => JSON.stringify(await savedRoute(page, byKeys))).toContain('approve noor yuki');

  // What is missing is said before sending, and mended where it is said.
  await expect(page.getByText(/Amount: has no value yet/)).toBeVisible();
  await page.getByRole('button', { name: 'Enter Amount' }).click();
  await page.keyboard.type('184,000');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/Amount: has no value yet/)).toBeHidden();

  // Somebody else plans the same route meanwhile: told live, and neither overwrites the other silently.
  const other = await browserOf(browser, 'Ines Halloran');
  await other.page.goto(`/circulations/${byKeys}/plan`);
  await expect(other.page.getByText('Saved', { exact: true })).toBeVisible();
  await other.page.getByLabel('Message to everyone you ask (optional)').fill('Please look at the price list.');
  await expect(page.getByLabel('Message to everyone you ask (optional)')).toHaveValue('Please look at the price list.');

  await page.getByRole('button', { name: /^Send to 2 people/ }).click();
  await expectAccessible(page, 'Send leaf');
  await page.getByRole('button', { name: 'Send to 2 people', exact: true }).click();
  await expect(page.getByText('2 people are asked.')).toBeVisible();
  for (const { watch } of [ines, dalia, other]) expect(watch.problems).toEqual([]);
});
