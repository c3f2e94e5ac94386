import type { Locator, Page } from '@playwright/test';
import { type Assignment, freshSeat, freshStage, type Route, type Stage, usualAllows } from '@/core/route/route';
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
    rule.kind === 'all' ? '' : rule.kind === 'any' ? 'any' : `${rule.k} of them`,
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
      ['review yuki', { all: true, branches: [['approve oskar caspian fenna, 2 of them'], ['approve rufus']] }],
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
  await pick('Oskar Thiele', 'Caspian Boyle', 'Fenna de Wit');
  await mouse.choose('Complete when', 'at least ... have');
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
  await ask('oskar', 'caspian', 'fenna');
  await keys.press('Tab', 'Tab');
  await keys.type('at');
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
  await expect(page.getByText(/Amount has no value yet/)).toBeVisible();
  await page.getByRole('button', { name: 'Enter Amount' }).click();
  await page.keyboard.type('184,000');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/Amount has no value yet/)).toBeHidden();

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

test('one names, one takes and gives back, returns are gathered, and the next round goes on', async ({ browser }) => {
  const ines = await browserOf(browser, 'Ines Halloran');
  const dalia = await browserOf(browser, 'Dalia Mercer');
  const circulation = await agreement(ines.page, dalia.page, 'Ski patrol hut lease');
  const person = (id: string) => ({ kind: 'person', person: id }) as const;
  const seat = (id: string, assignment: Assignment) => freshSeat(id, assignment);
  const review: Stage = {
    ...freshStage('review', 'review'),
    onReturn: 'gather',
    seats: [seat('petra', person('petra')), seat('rufus', person('rufus')), seat('yuki', person('yuki'))],
  };
  const approve: Stage = {
    ...freshStage('approve', 'approve'),
    rule: { kind: 'atLeast', k: 1 },
    seats: [seat('oskar', person('oskar')), seat('benedikt', person('benedikt'))],
    allows: { ...usualAllows, download: 'responded', print: 'responded' },
  };
  const rescue: Stage = {
    ...freshStage('rescue', 'review'),
    seats: [seat('group', { kind: 'group', group: 'rescue', members: 'any' })],
  };
  const read: Stage = { ...freshStage('read', 'read'), seats: [seat('named', { kind: 'named', by: 'petra' })] };
  const side = (id: string, stage: Stage) => ({
    name: id,
    condition: null,
    route: { kind: 'series' as const, id: `${id}-branch`, parts: [stage] },
  });
  await told(ines.page, 'circulation.plan', {
    circulation,
    note: null,
    basis: null,
    route: {
      kind: 'series',
      id: 'root',
      parts: [
        review,
        {
          kind: 'parallel',
          name: '',
          id: 'fork',
          join: { kind: 'all' },
          branches: [side('money', approve), side('rescue', rescue)],
        },
        read,
      ],
    },
  });
  await told(ines.page, 'circulation.send', { circulation });
  const act = (page: Page, seatId: string) => page.goto(`/circulations/${circulation}/act/${seatId}`);

  // Petra cannot say yes before she has named who is asked at the end; she returns it, and that is gathered.
  const petra = await browserOf(browser, 'Petra Novak');
  await act(petra.page, 'petra');
  await expect(
    petra.page.getByText('All 3 responses are needed. Returns are gathered until everybody has responded.'),
  ).toBeVisible();
  await petra.page.getByRole('button', { name: 'Complete review' }).click();
  await petra.page.getByRole('combobox', { name: 'Who confirms read' }).fill('Fenna');
  await petra.page.getByRole('option', { name: /^Fenna de Wit/ }).click();
  await expect(petra.page.getByText('Named; they are asked when their turn comes.')).toBeVisible();
  await expectAccessible(petra.page, 'Naming');
  await petra.page.getByRole('button', { name: 'Go on' }).click();
  await expect(petra.page.getByRole('region', { name: 'Complete review' })).toBeVisible();
  await petra.page.getByRole('button', { name: 'Return …' }).click();
  await petra.page.getByLabel('Reason').fill('The rent is missing.');
  await petra.page.getByRole('button', { name: 'Return for rework' }).click();
  await expect(petra.page).toHaveURL(/desk/);

  // The others go on; Ines sees that it is gathered, and ends that before Yuki has responded.
  const rufus = await browserOf(browser, 'Rufus Adeyemi');
  await act(rufus.page, 'rufus');
  await rufus.page.getByRole('button', { name: 'Complete review' }).click();
  await rufus.page
    .getByRole('region', { name: 'Complete review' })
    .getByRole('button', { name: 'Complete review' })
    .click();
  await expect(rufus.page).toHaveURL(/desk/);
  await ines.page.goto(`/circulations/${circulation}`);
  await expect(ines.page.getByText('returned; others go on')).toBeVisible();
  await ines.page.getByRole('button', { name: 'End gathering …' }).click();
  await expect(ines.page.getByText(/^Petra Novak returned it\. Yuki Arden can still respond/)).toBeVisible();
  await expectAccessible(ines.page, 'Gathering');
  await ines.page.getByRole('button', { name: 'Send it back now' }).click();
  await expect(ines.page.getByText('Returned for rework. Waiting for Dalia Mercer’s next version.')).toBeVisible();

  // The next version is asked about anew; now all of them say yes.
  const { change } = await asked(ines.page, 'circulation.view', { circulation });
  const { edit, documents } = await asked(dalia.page, 'draft.view', { change });
  const better = await uploaded(dalia.page, 'lease 2.pdf', await pdfWith('Lease with the rent'));
  await told(dalia.page, 'draft.setFile', {
    change,
    edit,
    document: documents[0]?.id ?? '',
    file: better,
    name: 'lease 2.pdf',
  });
  await told(dalia.page, 'draft.submit', { change, note: null });
  await ines.page.getByRole('button', { name: 'Review next round' }).click();
  await ines.page.getByRole('button', { name: /^Start round/ }).click();
  await expect(ines.page.getByText('3 people are asked.')).toBeVisible();
  const yuki = await browserOf(browser, 'Yuki Arden');
  for (const [{ page }, seatId] of [
    [petra, 'petra'],
    [rufus, 'rufus'],
    [yuki, 'yuki'],
  ] as const) {
    await act(page, seatId);
    await page.getByRole('button', { name: 'Complete review' }).click();
    await page
      .getByRole('region', { name: 'Complete review' })
      .getByRole('button', { name: 'Complete review' })
      .click();
    await expect(page).toHaveURL(/desk/);
  }

  // One of two approvals is enough, and the file can be had only once one has responded.
  const oskar = await browserOf(browser, 'Oskar Thiele');
  await act(oskar.page, 'oskar');
  await expect(oskar.page.getByText('1 of 2 are enough.')).toBeVisible();
  await oskar.page.getByRole('button', { name: 'Open tray' }).click();
  await expect(oskar.page.getByText('You can download and print it once you have responded.')).toBeVisible();
  const { versions } = await asked(oskar.page, 'circulation.view', { circulation });
  const file = versions.at(-1)?.files[0]?.file ?? '';
  const had = () => oskar.page.request.get(`/file/circulation/${circulation}/${file}?download`);
  expect((await had()).status()).toBe(403);
  await oskar.page.getByRole('button', { name: 'Approve', exact: true }).click();
  await oskar.page
    .getByRole('region', { name: 'Approve' })
    .getByRole('button', { name: 'Approve', exact: true })
    .click();
  await expect(oskar.page).toHaveURL(/desk/);
  expect((await had()).status()).toBe(200);

  // A task of the rescue group: Caspian takes it, so that it leaves the others, and gives it back; Noor does it.
  const caspian = await browserOf(browser, 'Caspian Boyle');
  const noor = await browserOf(browser, 'Noor Castellan');
  await act(caspian.page, 'group');
  await expect(caspian.page.getByText('Any one of Rescue group can respond.')).toBeVisible();
  await caspian.page.getByRole('button', { name: 'Take it' }).click();
  await expect(caspian.page.getByText('Taken.')).toBeVisible();
  await act(noor.page, 'group');
  await expect(
    noor.page.getByText('There is nothing to respond to now.').or(noor.page.getByText('For information only')),
  ).toBeVisible();
  await caspian.page.getByRole('button', { name: 'Give back' }).click();
  await expect(noor.page.getByRole('button', { name: 'Complete review' })).toBeVisible();
  await noor.page.getByRole('button', { name: 'Complete review' }).click();
  await noor.page
    .getByRole('region', { name: 'Complete review' })
    .getByRole('button', { name: 'Complete review' })
    .click();
  await expect(noor.page).toHaveURL(/desk/);

  // Whoever was named is asked at the end.
  const fenna = await browserOf(browser, 'Fenna de Wit');
  await act(fenna.page, 'named');
  await fenna.page.getByRole('button', { name: 'Confirm as read' }).click();
  await fenna.page
    .getByRole('region', { name: 'Confirm as read' })
    .getByRole('button', { name: 'Confirm as read' })
    .click();
  await expect(fenna.page).toHaveURL(/desk/);
  await expect(ines.page.getByRole('button', { name: 'Release revision A' })).toBeVisible();
  for (const { watch } of [ines, dalia, petra, rufus, yuki, caspian, noor, fenna]) expect(watch.problems).toEqual([]);
});
