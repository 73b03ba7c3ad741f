import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';
import { randomUUID } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { root, startApplication, type Running } from '../../scripts/lib/processes.ts';
import { makeDatabase } from '../support/stack.ts';

/** Mowing as it is on its first day: no account, no marketplace, files of one's own. */

let app: Running;
test.beforeAll(async () => {
  const files = join(root, '.data/test-files', randomUUID());
  mkdirSync(files, { recursive: true });
  app = await startApplication({
    MOWING_DATABASE_URL: await makeDatabase(),
    MOWING_DATA_DIR: files,
    QUAYSIDE_URL: '',
  });
});
test.afterAll(() => app.stop());

/** Search terms of thirty days: some sell well, one costs money and never sold. */
function terms(): string {
  const lines = [
    'Date;Campaign;Ad group;Targeting;Match type;Customer search term;Impressions;Clicks;Cost;Orders;Sales',
  ];
  for (let day = 1; day <= 30; day++) {
    const date = `${String(day).padStart(2, '0')}/09/2026`;
    for (let i = 0; i < 10; i++) {
      const sells = i < 6;
      const orders = sells && (day + i) % 3 === 0 ? 1 : 0;
      lines.push(
        `${date};Pots;Pots broad;plant pot;broad;plant pot ${i};90;2;0,80;${orders};${orders * 24},00`,
      );
    }
    lines.push(`${date};Pots;Pots broad;plant pot;broad;free plant pot;300;6;2,70;0;0,00`);
  }
  return lines.join('\n');
}

test('from nothing to the first accepted finding and its way out', async ({ page }) => {
  await page.goto(app.url);
  await expect(page).toHaveURL(/\/new$/);
  await expect(page.getByRole('heading', { name: 'Your first account' })).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);

  await page.getByRole('button', { name: 'Make the account' }).click();
  await expect(page.getByText('The account needs a name.')).toBeVisible();
  await page.getByLabel('Name').fill('Pots & more');
  await page.getByLabel('Currency').fill('EURO');
  await page.getByLabel('Target ACOS').fill('0');
  await page.getByRole('button', { name: 'Make the account' }).click();
  await expect(page.getByText('A target lies between 0.1 and 500 %.')).toBeVisible();
  await page.getByLabel('Target ACOS').fill('25');
  await page.getByRole('button', { name: 'Make the account' }).click();
  await expect(page.getByText('“EURO” is no currency that is known.')).toBeVisible();
  await page.getByLabel('Currency').fill('EUR');
  await page.getByRole('button', { name: 'Make the account' }).click();
  await expect(page).toHaveURL(/\/1\/data$/);
  await expect(page.getByTestId('data-sentence')).toContainText('Nothing is loaded yet. Bring a file');
  await expect(page.getByRole('button', { name: 'Fetch from the marketplace' })).toHaveCount(0);
  await expect(page.getByTestId('sheet-lines')).toHaveText('The sheet is empty');

  await page.getByLabel('File to load').setInputFiles({
    name: 'terms.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(terms()),
  });
  const preview = page.getByTestId('preview');
  const kind = preview.getByRole('combobox', { name: 'Kind of file' });
  await expect(kind).toBeVisible();
  if ((await kind.inputValue()) !== 'terms-daily') await kind.selectOption('terms-daily');
  for (const [header, column] of [
    ['Targeting', 'target'],
    ['Customer search term', 'term'],
    ['Cost', 'spend'],
  ])
    await preview.getByRole('combobox', { name: `Column for ${header}` }).selectOption(column!);
  const dates = preview.getByRole('combobox', { name: /dates/i });
  if (await dates.count()) await dates.selectOption('dmy');
  await preview.getByRole('button', { name: 'Load the file' }).click();
  await expect(page.getByText('330 rows', { exact: false }).first()).toBeVisible({ timeout: 60_000 });

  await page.keyboard.press('g');
  await page.keyboard.press('r');
  await expect(page).toHaveURL(/\/1\/round/);
  const row = page.locator('[role=row][data-key]').filter({ hasText: 'free plant pot' });
  await expect(row).toBeVisible();
  await row.click();
  await page.keyboard.press('a');
  await expect(page.getByTestId('sheet-lines')).toHaveText('1 line on the sheet');

  await page.goto(`${app.url}/1/ledger`);
  await expect(page.getByRole('link', { name: 'Export as CSV' })).toBeVisible();
  await page.getByRole('button', { name: 'Mark 1 line as applied' }).click();
  await expect(page.getByText('1 line noted as applied')).toBeVisible();
  await expect(page.getByText('1 of 1 applied')).toBeVisible();
  await expect(page.getByTestId('sheet-lines')).toHaveText('The sheet is empty');
});

test('a second account, the way between the two, and a place that is not there', async ({ page }) => {
  await page.goto(`${app.url}/1/explore`);
  await page.getByRole('button', { name: 'Account: Pots & more' }).click();
  await page.getByRole('menuitem', { name: 'New account' }).click();
  await expect(page.getByRole('heading', { name: 'A new account' })).toBeVisible();
  await page.getByLabel('Name').fill('Lamps');
  await page.getByText('a marketplace', { exact: true }).click();
  await page.getByRole('button', { name: 'Make the account' }).click();
  await expect(page.getByText('No address of the marketplace is known.')).toBeVisible();
  await page.getByText('files that I bring').click();
  await page.getByRole('button', { name: 'Make the account' }).click();
  await expect(page).toHaveURL(/\/2\/data$/);
  await page.goto(`${app.url}/2/round`);
  await expect(page.getByText('There are no settled figures to judge yet.')).toBeVisible();

  await page.getByRole('button', { name: 'Account: Lamps' }).click();
  await page.getByRole('menuitem', { name: /Pots & more/ }).click();
  await expect(page).toHaveURL(/\/1\/round/);
  await page.goto(app.url);
  await expect(page).toHaveURL(/\/1\/today/);

  await page.goto(`${app.url}/2/data`);
  await page.getByLabel('Name', { exact: true }).fill('Lamps and shades');
  await page.getByRole('button', { name: 'Keep these' }).click();
  await expect(page.getByRole('button', { name: 'Account: Lamps and shades' })).toBeVisible();
  await page.getByRole('button', { name: 'Remove this account' }).click();
  await expect(page.getByRole('button', { name: 'Remove “Lamps and shades”' })).toBeDisabled();
  await page.getByLabel('Name of the account to remove').fill('Lamps and shades');
  await page.getByRole('button', { name: 'Remove “Lamps and shades”' }).click();
  await expect(page).toHaveURL(/\/1\/today/);

  const gone = await page.goto(`${app.url}/2/round`);
  expect(gone!.status()).toBe(404);
  await expect(page.getByRole('heading', { name: 'There is nothing here' })).toBeVisible();
});
