import AxeBuilder from '@axe-core/playwright';
import { readFile } from 'node:fs/promises';
import { expect, test, type Page } from '@playwright/test';
import { startStack, structureOf, type Stack } from '../support/stack.ts';
import { openSheetOf } from '../support/sheets.ts';

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const rows = (page: Page) => page.locator('[role=row][data-key]');
const sheet = (page: Page) => page.getByTestId('sheet-lines');
const open = async (page: Page, path = '') => {
  await page.goto(`${stack.url}/explore${path}`);
  await expect(rows(page).first()).toBeVisible();
};
const accessible = async (page: Page) => {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
    .analyze();
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
};

test('the comparison is chosen, stands in the address, and its columns follow', async ({ page, context }) => {
  await open(page, '?level=account&cols=name,spend,spend@before');
  const before = () => rows(page).first().locator('[role=gridcell]').nth(3).innerText();
  const first = await before();
  await page.getByRole('button', { name: /^Compared with/ }).click();
  await page.getByLabel('Comparison to').fill('2026-09-10');
  await page.getByLabel('Comparison from').fill('2026-09-04');
  await page.keyboard.press('Escape');
  // Both ends stand, and what is shown is theirs: for a moment only one of them had changed.
  await expect(page.getByRole('button', { name: 'Compared with 4 Sep to 10 Sep' })).toBeVisible();
  await expect(page.getByRole('grid', { name: 'Rows' })).toHaveAttribute('aria-busy', 'false');
  await expect.poll(before).not.toBe(first);
  expect(new URL(page.url()).searchParams.get('cfrom')).toBe('2026-09-04');
  const own = await before();
  const second = await context.newPage();
  await second.goto(page.url());
  await expect(rows(second).first().locator('[role=gridcell]').nth(3)).toHaveText(own);
  await expect(second.getByRole('button', { name: 'Compared with 4 Sep to 10 Sep' })).toBeVisible();
  await second.close();
  await page.getByRole('button', { name: /^Compared with/ }).click();
  await page.getByRole('button', { name: /days just before/ }).click();
  await expect.poll(before).toBe(first);
});

test('two rows are compared, and marked ones with all others', async ({ page }) => {
  await open(page, '?level=campaigns&cols=name,clicks,spend,acos');
  const cells = (at: number) => rows(page).nth(at).locator('[role=gridcell]').allInnerTexts();
  const [one, two] = [await cells(0), await cells(1)];
  for (const key of ['x', 'j', 'x', 'c']) await page.keyboard.press(key);
  const table = page.getByRole('table', { name: 'Compared' });
  const line = (name: string) => table.getByRole('row', { name: new RegExp(`^${name}`) }).locator('td');
  await expect(page.getByRole('heading', { name: `${one[1]} against ${two[1]}` })).toBeVisible();
  for (const [name, at] of [
    ['Clicks', 2],
    ['Spend', 3],
    ['ACOS', 4],
  ] as const) {
    await expect(line(name).nth(0)).toHaveText(one[at]!);
    await expect(line(name).nth(1)).toHaveText(two[at]!);
  }
  await accessible(page);
  await page.getByRole('button', { name: 'Close' }).click();
  for (const key of ['j', 'x']) await page.keyboard.press(key);
  await page.getByRole('button', { name: 'Compare', exact: true }).click();
  await expect(page.getByRole('heading', { name: /^3 marked against \d+ others$/ })).toBeVisible();
  const money = (text: string) => Number(/[\d,]+\.\d+/.exec(text)?.[0].replace(/,/g, ''));
  const total = money(await page.getByTestId('explore-sentence').innerText());
  const sides = async () => (await line('Spend').allInnerTexts()).slice(0, 2).map(money);
  await expect
    .poll(async () => Math.abs((await sides()).reduce((sum, one) => sum + one, -total)))
    .toBeLessThan(0.02);
});

test('terms go down their lane from the table, each once, and one undo takes them back', async ({ page }) => {
  const where = encodeURIComponent(
    JSON.stringify({
      all: [
        { column: 'orders', is: 'at_least', value: 2 },
        { column: 'served', is: 'empty' },
      ],
    }),
  );
  await open(page, `?level=terms&where=${where}`);
  await page.keyboard.press('b');
  await page.getByLabel('Edit', { exact: true }).selectOption('lane');
  const text = page.getByTestId('preview-sentence');
  await expect(text).toContainText(/^[1-9][\d,]* change/);
  const changed = Number(/^([\d,]+)/.exec(await text.innerText())![1]!.replace(/,/g, ''));
  await page.getByRole('button', { name: /^Add [\d,]+ lines? to the sheet$/ }).click();
  await expect(sheet(page)).toHaveText(/[\d,]+ lines on the sheet/);
  await page.goto(`${stack.url}/ledger`);
  await expect(sheet(page)).toHaveText(/[\d,]+ lines on the sheet/);
  await expect(page.getByText(/conflict/)).toHaveCount(0);
  const answer = await openSheetOf<{
    lines: { entity: string; match_type: string; expression: string; ad_group: string; field: string }[];
  }>(stack.url);
  const created = answer.lines.filter(({ entity }) => entity === 'target');
  expect(created).toHaveLength(changed);
  // Every keyword has its way blocked where it was found, and goes to an ad group of exact keywords.
  for (const { expression, ad_group } of created.filter(({ match_type }) => match_type === 'exact')) {
    expect(ad_group).toContain('exact');
    expect(
      answer.lines.some((one) => one.entity === 'negative' && one.expression === expression),
      expression,
    ).toBe(true);
  }
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('goals and states are changed in their cells; a goal is at once, a state goes onto the sheet', async ({
  page,
}) => {
  await open(page, '?level=campaigns&cols=name,target_acos,status,spend');
  const name = await rows(page).first().locator('[role=gridcell]').nth(1).innerText();
  const row = page.getByRole('row', { name: new RegExp(name) }).first();
  const goal = row.locator('[role=gridcell]').nth(2);
  const before = await goal.innerText();
  await goal.dblclick();
  await page.getByLabel('Goal', { exact: true }).fill('17');
  await page.keyboard.press('Enter');
  await expect(goal).toHaveText('17 %');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await page.keyboard.press('Control+z');
  await expect(goal).toHaveText(before);
  await row.locator('[role=gridcell]').nth(3).dblclick();
  await page.getByLabel('Status', { exact: true }).selectOption('paused');
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('conditions in groups: this and that, or something else, changed where they stand', async ({ page }) => {
  await open(page, '?level=targets');
  const sentence = page.getByTestId('explore-sentence');
  await page.getByRole('button', { name: 'Add a condition' }).click();
  await page.getByLabel('Type a condition').fill('orders = 0 and spend > 5 or acos > 90');
  await page.keyboard.press('Enter');
  const chip = page.getByRole('button', { name: 'Orders is 0 and Spend above 5.00 or ACOS above 90 %' });
  await expect(chip).toBeVisible();
  const first = await sentence.innerText();
  await chip.click();
  await expect(page.getByRole('group', { name: 'Group 1', exact: true })).toBeVisible();
  const second = page.getByRole('group', { name: 'Group 2', exact: true });
  await second.getByRole('button', { name: 'And another' }).click();
  await second.getByLabel('Value').nth(1).fill('1000');
  await expect(page.getByRole('status').filter({ hasText: /match/ })).toBeVisible();
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(page.getByRole('button', { name: /or ACOS above 90 % and ACOS above 1,000 %/ })).toBeVisible();
  await expect(sentence).not.toHaveText(first);
  // A group within a group is changed in fields too, and can be grown there.
  await page.getByRole('button', { name: 'Add a condition' }).click();
  await page.getByLabel('Type a condition').fill('(orders = 0 and (spend > 5 or clicks > 40)) or acos > 90');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: /Clicks above 40/ }).click();
  const inner = page.getByRole('group', { name: 'Group 1.2', exact: true });
  await inner.getByLabel('Value').first().fill('7');
  await inner.getByRole('button', { name: 'Or another' }).last().click();
  await inner.getByLabel('Value').nth(2).fill('150');
  await page.getByRole('button', { name: 'Apply' }).click();
  await expect(
    page.getByRole('button', { name: /\(Spend above 7\.00 or Clicks above 40 or ACOS above 150 %\)/ }),
  ).toBeVisible();
});

test('hours by weekday, shaded by their goal, saved as a file; a cell opens its campaigns', async ({
  page,
}) => {
  await page.goto(`${stack.url}/explore?view=cross`);
  await page.getByLabel('Rows', { exact: true }).selectOption('hour');
  await page.getByLabel('Columns', { exact: true }).selectOption('weekday');
  const table = page.getByRole('table', { name: 'Cross-tab' });
  await expect(table.getByRole('row')).toHaveCount(26);
  await accessible(page);
  const all = await page.getByRole('button', { name: 'Rows of all, all' }).innerText();
  const saved = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export' }).click();
  await page.getByRole('menuitem', { name: 'The cross-tab as CSV' }).click();
  const lines = (await readFile(await (await saved).path(), 'utf8')).trim().split('\n');
  expect(lines).toHaveLength(26);
  expect(lines[0]).toBe('hour,Monday,Tuesday,Wednesday,Thursday,Friday,Saturday,Sunday,all');
  expect(`${Math.round(Number(lines[25]!.split(',')[8]) * 100)} %`).toBe(all);
  await page.getByLabel('Columns', { exact: true }).selectOption('match_type');
  await expect(
    page.getByText('The marketplace tells hours by campaign: they cannot be cut by match type.'),
  ).toBeVisible();
  await page.getByLabel('Columns', { exact: true }).selectOption('campaign');
  await page.getByRole('button', { name: 'Rows of 17:00, Lids automatic' }).click();
  await expect(rows(page)).toHaveCount(1);
});

test('parts of ad group names make rows of a cross-tab', async ({ page }) => {
  await page.goto(`${stack.url}/explore?view=cross&rows=ad_group_part&by=match_type&part=0`);
  const table = page.getByRole('table', { name: 'Cross-tab' });
  await expect(table.getByRole('rowheader', { name: 'Lids' })).toBeVisible();
  await page.getByLabel('Part', { exact: true }).fill('2');
  await expect(table.getByRole('rowheader', { name: 'exact' })).toBeVisible();
});

test('bids that changed stand as a step line with their days', async ({ page }) => {
  await open(page, '?level=targets&cols=name,bid,bid_history,spend');
  await expect(
    rows(page)
      .first()
      .getByRole('img', { name: /^Bids: \d{4}-\d\d-\d\d \d+\.\d\d/ }),
  ).toBeVisible();
});

test('a range of rows that were never in view is marked and copied whole', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await open(page, '?level=targets&cols=name,clicks');
  const total = Number(
    (await page.getByTestId('explore-sentence').innerText())
      .match(/^([\d,]+) targets/)![1]!
      .replace(/,/g, ''),
  );
  expect(total).toBeGreaterThan(500);
  await page.keyboard.press('x');
  await page
    .getByRole('grid', { name: 'Rows' })
    .evaluate((table) => table.scrollTo({ top: table.scrollHeight }));
  const last = page.locator(`[role=row][aria-rowindex="${total + 2}"]`);
  await last.locator('input').click({ modifiers: ['Shift'] });
  await expect(page.getByRole('button', { name: `Edit ${total.toLocaleString('en')} marked` })).toBeVisible();
  await page.keyboard.press('Control+c');
  await expect(page.getByText(`${total.toLocaleString('en')} rows copied.`)).toBeVisible();
  const copied = (await page.evaluate(() => navigator.clipboard.readText())).split('\n');
  expect(copied).toHaveLength(total + 1);
  const clicks = copied.slice(1).reduce((sum, line) => sum + Number(line.split('\t')[1]), 0);
  const shown = await page.locator('[role=row]').nth(1).locator('[role=gridcell]').nth(2).innerText();
  expect(clicks.toLocaleString('en')).toBe(shown);
});

test('an end date is picked in its cell, a default bid edited in bulk; both reach the marketplace as lines of their own', async ({
  page,
}) => {
  await open(page, '?level=campaigns&cols=name,status,daily_budget,end_date,spend');
  const ladder = page.getByRole('group', { name: 'Levels' });
  await expect(ladder.getByRole('button', { name: /^Campaigns, \d+$/ })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await expect(ladder.getByRole('button', { name: /^Targets, [\d,]+$/ })).toBeVisible();
  const first = rows(page).first();
  await first.getByRole('gridcell').nth(4).dblclick();
  const field = page.getByLabel('End date');
  await field.fill('2026-12-31');
  await field.press('Enter');
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await ladder.getByRole('button', { name: /^Ad groups/ }).click();
  await expect(page).toHaveURL(/level=ad_groups/);
  await expect(rows(page).first()).toBeVisible();
  await page.keyboard.press('x');
  await page.keyboard.press('b');
  await page.getByLabel('Edit', { exact: true }).selectOption({ label: 'Change default bids by an amount' });
  await page.getByLabel('By how much').fill('0.05');
  await expect(page.getByTestId('preview-sentence')).toContainText('1 change');
  await page.getByRole('button', { name: 'Add 1 line to the sheet' }).click();
  await expect(sheet(page)).toHaveText('2 lines on the sheet');
  await page.goto(`${stack.url}/ledger`);
  const line = page.getByRole('row').filter({ hasText: 'End date' });
  await expect(line.getByLabel(/^New end date of/)).toHaveValue('2026-12-31');
  // A day that has passed is refused where it is typed.
  await line.getByLabel(/^New end date of/).fill('2020-01-01');
  await line.getByLabel(/^New end date of/).blur();
  await expect(page.getByText('2020-01-01 has passed')).toBeVisible();
  await expect(page.getByRole('row').filter({ hasText: 'Default bid' })).toBeVisible();
  await page.getByRole('button', { name: /^Send 2 lines/ }).click();
  await expect(page.getByTestId('sent-sentence')).toContainText('2 of 2 lines applied');
  const structure = await structureOf(stack.quayside);
  expect(structure.filter((row) => row.end_date === '2026-12-31')).toHaveLength(1);
});

test('a condition says where it cannot be read, and takes parentheses and quoted words', async ({ page }) => {
  await open(page, '?level=targets');
  await page.getByRole('button', { name: 'Add a condition' }).click();
  const field = page.getByLabel('Type a condition');
  await field.fill('name contains "lids" and (orders = 0 or stars > 3)');
  await expect(page.locator('mark')).toHaveText('stars');
  await expect(page.getByText('There is no column “stars” here.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Apply' })).toBeDisabled();
  await field.fill('name contains "airlock lids" and (orders = 0 or not acos < 30)');
  await expect(page.getByRole('button', { name: 'Apply' })).toBeEnabled();
  await field.press('Enter');
  await expect(page).toHaveURL(/where=/);
  await expect(rows(page).first()).toContainText('airlock lids');
});
