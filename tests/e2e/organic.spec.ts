import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { callApi } from '../../scripts/lib/processes.ts';
import type { OrganicProductAnswer } from '../../src/answers/organic.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** Ranks, what ads have to do with them and what they sell, through the interface. */

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const open = async (page: Page) => {
  await page.goto(`${stack.url}/today`);
  await page.getByRole('button', { name: 'Organic', exact: true }).click();
  await expect(page.getByTestId('organic-sentence')).toContainText(/sold without an ad, \d+ % of all sales/);
};
const panel = (page: Page) => page.getByRole('complementary', { name: /^Ranks of/ });

test('what followed what is said with its interval, and nothing where nothing stands out', async ({
  page,
}) => {
  await open(page);
  await expect(page.getByTestId('all-rank-after-spend')).toContainText(
    /rank moved with what its searches cost, on the same day: 0\.\d\d \(0\.\d\d to 0\.\d\d, [\d,]+ pairs of days\)/,
  );
  await expect(page.getByTestId('sales-after-rank')).toContainText(
    /nothing stands out of chance: no lag of 29 leaves 0 with its interval|organic sales moved (with|against) ranks of the product/,
  );
  await expect(panel(page).getByRole('img', { name: /^Rank after spend: / })).toBeVisible();
});

test('a keyword on one time axis: series are moved by keys and by hand, the address keeps it', async ({
  page,
}) => {
  await open(page);
  await panel(page).getByRole('button', { name: 'sauerkraut crock', exact: true }).click();
  await expect(page).toHaveURL(/keyword=sauerkraut\+crock/);
  const rank = panel(page).getByRole('slider', { name: 'Organic rank' });
  const told = await callApi<OrganicProductAnswer>(
    stack.url,
    'GET',
    `/api/1/organic/product?sku=TT-CRK5&from=2026-10-18&to=2026-11-16`,
  );
  const series = told.keywords.find(({ keyword }) => keyword === 'sauerkraut crock')!.organicRank;
  await expect(panel(page).locator('[data-lane=rank]')).toContainText(`last position ${series.at(-1)}`);
  await rank.focus();
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('ArrowLeft');
  await expect(rank).toHaveAttribute('aria-valuetext', 'its days 3 days later');
  await expect(page).toHaveURL(/lags=rank%3A3/);
  // On the day under the mouse stands what the rank was three days later.
  const box = (await rank.boundingBox())!;
  await page.mouse.move(box.x + 4 + ((box.width - 8) * 10.5) / 90, box.y + 10);
  await expect(panel(page).locator('[data-lane=rank]')).toContainText(`position ${series[13]}`);
  // Dragged to the left by five days of the axis.
  const revenue = panel(page).getByRole('slider', { name: 'Total revenue' });
  const bar = (await revenue.boundingBox())!;
  await page.mouse.move(bar.x + 200, bar.y + 20);
  await page.mouse.down();
  await page.mouse.move(bar.x + 200 - (5 * bar.width) / 90, bar.y + 20, { steps: 4 });
  await page.mouse.up();
  await expect(revenue).toHaveAttribute('aria-valuenow', '5');
  await page.reload();
  await expect(panel(page).getByRole('slider', { name: 'Total revenue' })).toHaveAttribute(
    'aria-valuenow',
    '5',
  );
  await panel(page).getByRole('button', { name: 'Back to their own days' }).click();
  await expect(panel(page).getByRole('slider', { name: 'Organic rank' })).toHaveAttribute(
    'aria-valuetext',
    'on its own days',
  );
  await panel(page).getByRole('button', { name: 'The whole product' }).click();
  await expect(page).not.toHaveURL(/keyword=/);
});

test('a tolerated loss stands beside what the rank sells', async ({ page }) => {
  const found = await callApi<{ findings: { key: string; subject: string }[] }>(
    stack.url,
    'GET',
    '/api/1/round?from=2026-10-18&to=2026-11-16',
  );
  const one = found.findings.find(({ subject }) => /^sauerkraut crock/.test(subject))!;
  await callApi(stack.url, 'PUT', '/api/1/idle/tolerances', {
    entries: [
      { findingKey: one.key, tolerance: { amount: 900_000_000, reason: 'holds its rank', until: null } },
    ],
  });
  await page.goto(`${stack.url}/goals?view=tolerated`);
  const row = page.locator('[role=row]', { hasText: 'holds its rank' });
  await expect(row).toContainText('before ads');
  const sku = (await callApi<{ sku: string }[]>(stack.url, 'GET', '/api/1/idle/tolerances'))[0]!.sku;
  await page.goto(`${stack.url}/today?part=organic&product=${sku}`);
  await expect(page.getByTestId('organic-sentence')).toContainText(
    /1 loss tolerated for a rank, [\d.]+ a week/,
  );
  await expect(panel(page).locator('[data-keyword="sauerkraut crock"] td').last()).toHaveText(
    /^[\d,]+\.\d\d$/,
  );
});

test('products are found and sorted; a product that nobody is called is said', async ({ page }) => {
  await open(page);
  const rows = page.locator('[role=row][data-key]');
  await page.getByRole('columnheader', { name: 'Organic sales' }).click();
  await expect(page).toHaveURL(/sort=-?organic/);
  await page.keyboard.press('/');
  await page.getByRole('searchbox', { name: 'Find a product' }).fill('beechwood');
  await expect(rows).toHaveCount(1);
  await expect(panel(page)).toHaveAccessibleName('Ranks of Beechwood tamper');
  await page.getByRole('searchbox', { name: 'Find a product' }).fill('nothing like it');
  await expect(page.getByText('No product is called so.')).toBeVisible();
});

test('the accessibility rules, with a keyword opened', async ({ page }) => {
  await page.goto(`${stack.url}/today?part=organic&keyword=sauerkraut+crock&lags=rank:2`);
  await expect(panel(page).getByRole('table', { name: 'Keywords and their ranks' })).toBeVisible();
  await expect(page.getByTestId('all-rank-after-spend')).toBeVisible();
  const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag22aa']).analyze();
  expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html.slice(0, 160))])).toEqual([]);
});
