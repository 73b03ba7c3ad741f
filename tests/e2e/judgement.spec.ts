import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { startStack, type Stack } from '../support/stack.ts';
import { openSheetOf } from '../support/sheets.ts';

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const rows = (page: Page) => page.locator('[role=row][data-key]');
const sheet = (page: Page) => page.getByTestId('sheet-lines');
const heldLine = (page: Page) => page.getByTestId('held-line');
const open = async (page: Page, path: string) => {
  await page.goto(`${stack.url}${path}`);
  await expect(rows(page).first()).toBeVisible();
};
const amount = async (page: Page) =>
  Number((await page.getByText(/^[\d,]+ match$/).innerText()).replace(/\D/g, ''));
const whole = (text: string) => Number(text.replace(/\D/g, ''));

test('held findings are counted, shown by guard, and confirmed beyond it: one by key, all by a button', async ({
  page,
}) => {
  await open(page, '/round?queue=targets');
  await expect(heldLine(page)).toContainText(/[\d,]+ targets are held: [\d,]+ by /);
  const step = heldLine(page).getByRole('button', { name: /by the largest step$/ });
  const held = whole((await step.innerText()).split(' by ')[0]!);
  await step.click();
  await expect(page).toHaveURL(/held=/);
  await expect.poll(() => amount(page)).toBe(held);

  // One: the sentence says what is wanted, the sheet gets that, undo takes it back.
  const sentence = await page.getByTestId('why-sentence').innerText();
  const wanted = /The evidence asks for ([\d.]+); held by the largest step/.exec(sentence)![1]!;
  await page.keyboard.press('b');
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  const { lines } = await openSheetOf<{
    lines: { new_value: string }[];
  }>(stack.url);
  expect((Number(lines[0]!.new_value) / 1e6).toFixed(2)).toBe(Number(wanted).toFixed(2));
  await expect.poll(() => amount(page)).toBe(held - 1);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await expect.poll(() => amount(page)).toBe(held);

  // All of them, and back.
  await page.getByRole('button', { name: /^Confirm [\d,]+ beyond the largest step$/ }).click();
  await expect(sheet(page)).toHaveText(new RegExp(`^${held.toLocaleString('en')} lines on the sheet`));
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('a raise that its campaign’s budget cannot pay for is held by it, with the working', async ({
  page,
}) => {
  await open(page, '/round?queue=targets');
  const dry = heldLine(page).getByRole('button', { name: /by the budget$/ });
  const held = whole((await dry.innerText()).split(' by ')[0]!);
  await dry.click();
  await expect.poll(() => amount(page)).toBe(held);
  await expect(page.getByTestId('why-sentence')).toContainText(
    /by its campaign’s budget, which would run dry before the day is over/,
  );
  await expect(page.getByTestId('why-working')).toContainText('the budget of its campaign lasts the day');
});

test('steps of a goal: careful ones hold more', async ({ page }) => {
  await open(page, '/round?queue=targets');
  const heldNow = async () =>
    whole(
      /by the largest step/.test(await heldLine(page).innerText())
        ? /([\d,]+) by the largest step/.exec(await heldLine(page).innerText())![1]!
        : '0',
    );
  const before = await heldNow();
  await page.goto(`${stack.url}/goals`);
  await page.getByRole('combobox', { name: 'Steps of The account' }).selectOption('careful');
  await expect(page.locator('[data-key="account:"]')).toContainText('× 1.4 up');
  await expect(page.getByText('Everything is judged anew.')).toBeVisible();
  await expect(page.getByRole('combobox', { name: 'Steps of The account' })).toHaveValue('careful');
  await open(page, '/round?queue=targets');
  await expect.poll(heldNow).toBeGreaterThan(before);
  await page.goto(`${stack.url}/goals`);
  await page.getByRole('combobox', { name: 'Steps of The account' }).selectOption('even');
  await expect(page.getByRole('combobox', { name: 'Steps of The account' })).toHaveValue('even');
});

test('a goal moved far up holds theta at 1 until that is confirmed, and again once it is taken back', async ({
  page,
}) => {
  const aim = async (percent: string) => {
    await page.getByLabel(/^Target ACOS of The account/).fill(percent);
    await page.keyboard.press('Enter');
  };
  await page.goto(`${stack.url}/goals`);
  const row = page.getByRole('complementary', { name: 'Goal of The account' });
  const before = await page.getByLabel(/^Target ACOS of The account/).inputValue();
  await aim('75');
  // No product earns as much: that may be a slip, so it is asked.
  await expect(page.getByText(/75 % lies above the break-even of the account/)).toBeVisible();
  await page.getByRole('button', { name: 'Keep it all the same' }).click();
  await expect(row).toContainText('At 75 % a bid would go above its own revenue per click: held at 1');
  await page.getByRole('button', { name: 'Let θ of The account go above 1' }).click();
  await expect(row).not.toContainText('held at 1');
  await expect.poll(async () => Number(/([\d.]+) since/.exec(await row.innerText())![1])).toBeGreaterThan(1);
  await page.getByRole('button', { name: 'Hold θ of The account at 1 again' }).click();
  await expect(row).toContainText('held at 1');
  await aim(before);
  await expect(row).not.toContainText('held at 1');
});

test('three rounds: forecasts get their score, shown by kind, drawn, and with the model’s own grades', async ({
  page,
}) => {
  test.setTimeout(300_000);
  await page.goto(`${stack.url}/ledger`);
  await page.getByRole('button', { name: /^Forecasts/ }).click();
  await expect(page.getByTestId('forecast-sentence')).toContainText('No forecast has its score yet');
  for (const day of ['28 Nov 2026', '5 Dec 2026', '12 Dec 2026']) {
    await open(page, '/round?queue=targets');
    await page.keyboard.press('Control+a');
    await page.getByRole('button', { name: /^Accept [\d,]+ marked$/ }).click();
    await expect(sheet(page)).toHaveText(/^[\d,]+ lines on the sheet/);
    await page.getByRole('link', { name: 'Check and send' }).click();
    await page.getByRole('button', { name: /^Send [\d,]+ lines to Quayside/ }).click();
    await expect(page.getByTestId('sent-sentence')).toContainText('lines applied', { timeout: 60_000 });
    await page.goto(`${stack.url}/data`);
    await page.getByRole('button', { name: '7 days', exact: true }).click();
    await expect(page.getByTestId('data-sentence')).toContainText(day, { timeout: 120_000 });
  }
  await page.goto(`${stack.url}/ledger?sheet=forecasts`);
  const sentence = page.getByTestId('forecast-sentence');
  await expect(sentence).toContainText(/\d+ of \d+ forecasts held within their 80 % interval: \d+ %/);
  const [, inside, all] = /([\d,]+) of ([\d,]+) forecasts/.exec(await sentence.innerText())!;
  const kinds = page.getByRole('table', { name: 'Forecasts by kind' });
  await expect(kinds).toContainText('Raises');
  await expect(kinds).toContainText('Cuts');
  // The picture holds a mark for each.
  await expect(page.getByRole('img', { name: /forecasts of sales a week/ }).locator('path')).toHaveCount(
    whole(all!),
  );
  expect(whole(inside!)).toBeLessThanOrEqual(whole(all!));
  await expect(page.getByRole('table', { name: 'Weekly checks of the model' }).getByRole('row')).toHaveCount(
    5,
  );
  const found = await new AxeBuilder({ page }).analyze();
  expect(found.violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
});

test('a negative phrase says what it lets through, and takes both', async ({ page }) => {
  await page.goto(`${stack.url}/lanes?view=words&q=lid`);
  const row = page.getByRole('grid', { name: 'Words' }).locator('[data-key="lid"]');
  await row.click();
  await expect(page.getByTestId('twin').first()).toContainText(/“lids”: [\d,]+ terms/);
  await page.getByTestId('twin').first().getByRole('button', { name: 'Add both' }).click();
  await expect(sheet(page)).toHaveText(/^\d+ lines on the sheet/);
  const { lines } = await openSheetOf<{
    lines: { expression: string }[];
  }>(stack.url);
  expect(new Set(lines.map(({ expression }) => expression))).toEqual(new Set(['lid', 'lids']));
  await page.keyboard.press('Control+z');
});
