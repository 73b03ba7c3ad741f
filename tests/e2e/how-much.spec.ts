import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { callApi } from '../../scripts/lib/processes.ts';
import { startStack, structureOf, type Stack } from '../support/stack.ts';

/** How much money: budgets that run dry, totals that are split, the month against its plan, through the interface. */

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const rows = (page: Page) => page.locator('[role=row][data-key]');
const sheet = (page: Page) => page.getByTestId('sheet-lines');
const panel = (page: Page) => page.getByRole('complementary', { name: 'Why' });
const budgets = async () =>
  new Map(
    (await structureOf(stack.quayside))
      .filter(({ entity }) => entity === 'campaign')
      .map(({ campaign, daily_budget: budget }) => [campaign, Number(budget)]),
  );
const numberIn = async (page: Page, testId: string) =>
  Number((await page.getByTestId(testId).innerText()).replaceAll(',', ''));

test('a budget that runs dry: why, the ways out, one taken, seen on the sheet, taken back', async ({
  page,
}) => {
  await page.goto(`${stack.url}/spend`);
  await expect(page.getByTestId('budgets-sentence')).toContainText(
    /\d+ campaigns of \d+ run dry and miss about/,
  );
  await expect(panel(page).getByTestId('why-sentence')).toContainText(
    /It has budget for \d+ % of its clicks’ time/,
  );
  await expect(panel(page).getByTestId('why-working')).toContainText('A full day spends');
  await expect(rows(page).first().getByRole('img')).toHaveAttribute(
    'aria-label',
    /spent before midnight on \d+ of \d+ days/,
  );
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText(/^\d+ lines? on the sheet$/);
  await expect(rows(page).first()).toContainText(/on the sheet/);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  // Those that lie idle are one press away, and all of them are taken at once.
  await page.getByRole('combobox', { name: 'Which campaigns' }).selectOption('idle');
  await expect(rows(page).first()).toContainText('what is idle');
  await page.keyboard.press('Control+a');
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText(/^\d+ lines? on the sheet$/);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('by hand and by file: what is too low is said, what a file changes is looked at first', async ({
  page,
}) => {
  await page.goto(`${stack.url}/spend?sort=-budget`);
  await expect(panel(page).getByTestId('why-sentence')).toBeVisible();
  const name = await panel(page).getByRole('heading', { level: 2 }).innerText();
  await page.keyboard.press('e');
  const field = panel(page).getByRole('textbox', { name: 'Daily budget' });
  await expect(field).toBeFocused();
  await field.fill('0');
  await field.press('Enter');
  await expect(panel(page)).toContainText('below the marketplace’s least budget of 2.00');
  const put = panel(page).getByRole('button', { name: 'Put on the sheet' });
  await expect(put).toBeDisabled();
  await field.fill('33.5');
  await field.press('Enter');
  await put.click();
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await page.getByRole('heading', { name: 'Spend', exact: true }).click();
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  const text = `campaign,daily_budget\n${name},41.00\nNo such campaign,5.00\n`;
  await page
    .getByLabel('A file of budgets')
    .setInputFiles({ name: 'mine.csv', mimeType: 'text/csv', buffer: Buffer.from(text) });
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('1 budget would change.');
  await expect(dialog).toContainText('Line 3, campaign: No campaign “No such campaign”');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await dialog.getByRole('button', { name: 'Add 1 budget to the sheet' }).click();
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('a total is split: one budget is moved, the others and the sales answer; down to the marketplace and back', async ({
  page,
}) => {
  const before = await budgets();
  await page.goto(`${stack.url}/spend?view=groups&of=product:TT-CRK5`);
  await expect(page.getByTestId('split-sentence')).toContainText('than as they stand');
  const total = page.getByRole('textbox', { name: 'Total a day' });
  await total.fill('40');
  await total.press('Enter');
  await expect(page.getByTestId('split-total')).toHaveText('40.00');
  const sales = await numberIn(page, 'split-sales');
  // Rows are used again for others: one is known by its key.
  const dear = page.locator('[role=row][data-key]').filter({ hasText: 'Crock 5 exact' });
  const budget = dear.locator('[data-budget-of]');
  const first = await budget.innerText();
  const all = async () => (await page.locator('[data-budget-of]').allInnerTexts()).map(Number);
  expect((await all()).reduce((sum, one) => sum + one, 0)).toBeLessThanOrEqual(40.001);
  // From the keyboard: ten steps less, and somebody else gets it.
  await dear.getByText('Crock 5 exact').click();
  await page.keyboard.press('Shift+ArrowLeft');
  await expect(budget).not.toHaveText(first);
  await expect(dear).toContainText('set by hand');
  await expect.poll(() => numberIn(page, 'split-sales')).toBeLessThanOrEqual(sales);
  await page.keyboard.press('r');
  await expect(budget).toHaveText(first);
  // By hand: dragged to the left edge it has its least.
  const bar = dear.getByRole('slider');
  const box = (await bar.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + 8, box.y + box.height / 2, { steps: 4 });
  await page.mouse.up();
  await expect(budget).toHaveText('2.00');
  await page.getByRole('button', { name: 'Let 1 budget go' }).click();
  await expect(budget).toHaveText(first);
  const wanted = new Map(
    await rows(page).evaluateAll((list) =>
      list.map((row): [string, number] => [
        row.querySelector('b')!.textContent!,
        Number(row.querySelector('[data-budget-of]')!.textContent),
      ]),
    ),
  );
  await page.getByRole('button', { name: /^Put \d+ on the sheet$/ }).click();
  await expect(sheet(page)).toHaveText(/^\d+ lines on the sheet$/);
  const lines = (await sheet(page).innerText()).split(' ')[0]!;
  await page.getByRole('link', { name: 'Check and send' }).click();
  await page.getByRole('button', { name: `Send ${lines} lines to Quayside` }).click();
  await expect(page.getByText(`${lines} of ${lines} applied`).first()).toBeVisible({ timeout: 30_000 });
  const live = await budgets();
  for (const [name, amount] of wanted) expect(live.get(name)).toBeCloseTo(amount, 2);
  await page
    .getByRole('button', { name: /^Revert/ })
    .first()
    .click();
  await page.getByRole('link', { name: 'Check and send' }).click();
  await page.getByRole('button', { name: /^Send \d+ lines to Quayside/ }).click();
  await expect
    .poll(async () => [...(await budgets())].sort(), { timeout: 30_000 })
    .toEqual([...before].sort());
  // Leasts above the total: a clear line, nothing to put.
  await page.goto(`${stack.url}/spend?view=groups&of=product:TT-CRK5`);
  const least = page.getByRole('textbox', { name: 'Each at least' });
  await least.fill('30');
  await least.press('Enter');
  await expect(page.getByTestId('split-sentence')).toContainText(
    /leasts of \d+ campaigns are .+ above the total of 40.00/,
  );
  await expect(page.getByRole('button', { name: 'Put 0 on the sheet' })).toBeDisabled();
  await page.getByRole('heading', { name: 'Spend', exact: true }).click();
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('split-total')).toHaveText('40.00');
  await total.fill('');
  await total.press('Enter');
  await expect(page.getByTestId('split-total')).not.toHaveText('40.00');
});

test('the month against its plan: where it lands, with the open sheet', async ({ page }) => {
  await page.goto(`${stack.url}/spend?view=pace`);
  await expect(page.getByTestId('pace-sentence')).toContainText('Nothing is planned for it');
  const { window } = await callApi<{ window: { to: string } }>(stack.url, 'GET', '/api/1/round/queue');
  const month = `${window.to.slice(0, 7)}-01`;
  await callApi(stack.url, 'PUT', '/api/1/goals/plan', {
    rows: [{ month, sku: '', spend: 5e9, sales: 2e10, revenue: null }],
  });
  await page.reload();
  await expect(page.getByTestId('pace-sentence')).toContainText(/spend lands at [\d,.]+ of 5,000.00, \d+ %/);
  await expect(panel(page)).toContainText(/so far; it lands at .+ \(.+ to .+\), \d+ % of what is planned/);
  await page.goto(`${stack.url}/spend`);
  await expect(page.getByTestId('budgets-sentence')).toBeVisible();
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText(/^\d+ lines? on the sheet$/);
  await page.goto(`${stack.url}/spend?view=pace`);
  await expect(panel(page)).toContainText('The open sheet is said to change it by');
  await page.keyboard.press('j');
  await expect(panel(page).getByRole('heading', { level: 2 })).not.toHaveText('The account');
});

test('wrong addresses, nothing there, and the accessibility rules', async ({ page }) => {
  await page.goto(`${stack.url}/spend?view=groups&of=product:none`);
  await expect(page.getByText('What the address names shares no total here')).toBeVisible();
  await page.goto(`${stack.url}/spend?q=nothing%20is%20called%20so`);
  await expect(page.getByText('No campaign is called so.')).toBeVisible();
  for (const query of ['', '?view=groups', '?view=pace']) {
    await page.goto(`${stack.url}/spend${query}`);
    await expect(page.getByRole('grid')).toBeVisible();
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag22aa'])
      .analyze();
    expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html.slice(0, 160))])).toEqual([]);
  }
});

test('the plan by file: looked at first, kept in one step, taken back', async ({ page }) => {
  await page.goto(`${stack.url}/goals?view=plan`);
  await expect(page.getByRole('table', { name: 'Plan' })).toBeVisible();
  await page.getByLabel('A file of plans').setInputFiles({
    name: 'plan.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(
      'month,sku,spend,revenue\n2027-02,TT-CRK5,1500,9000\n2027-02,XX-1,1,1\n2027-03,,7000,\n',
    ),
  });
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('2 plans would change.');
  await expect(dialog).toContainText(
    '2027-02 TT-CRK5: spend not planned → 1,500.00, revenue not planned → 9,000.00',
  );
  await expect(dialog).toContainText('Line 3, sku: There is no product XX-1 here.');
  await dialog.getByRole('button', { name: 'Keep 2 plans' }).click();
  const field = page.getByRole('textbox', { name: 'Spend planned for February 2027 of TT-CRK5' });
  await expect(field).toHaveValue('1500');
  await page.getByRole('heading', { name: 'Goals', exact: true }).click();
  await page.keyboard.press('Control+z');
  await expect(field).toHaveCount(0);
});
