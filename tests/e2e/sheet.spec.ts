import { expect, test, type Page } from '@playwright/test';
import { callApi } from '../../scripts/lib/processes.ts';
import type { OpenSheet } from '../../src/answers/changes.ts';
import { count } from '../../src/core/metrics/format.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** A sheet of hundreds of lines in the hands of somebody who works with keys. */

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const table = (page: Page) => page.getByRole('grid', { name: 'Lines of the open sheet' });
const focused = (page: Page) => table(page).locator('[data-focus=true]');
const bar = (page: Page) => page.getByTestId('sheet-lines');

test('hundreds of lines: only those in sight are there; keys go to the end, find, edit, remove and take back', async ({
  page,
}) => {
  const { lines } = await callApi<{ lines: number }>(stack.url, 'POST', '/api/1/explore/edit', {
    window: { from: '2026-10-18', to: '2026-11-16' },
    level: 'targets',
    columns: [],
    where: { all: [{ column: 'clicks', is: 'at_least', value: 1 }] },
    edit: { field: 'bid', how: 'percent', value: -0.12 },
  });
  expect(lines).toBeGreaterThan(300);
  await page.goto(`${stack.url}/ledger`);
  await expect(bar(page)).toHaveText(`${count(lines)} lines on the sheet`);
  await expect(page.getByTestId('sheet-sentence')).toContainText(`${count(lines)} lines should change spend`);
  await expect(table(page).locator('[data-line]').first()).toBeVisible();
  expect(await table(page).locator('[data-line]').count()).toBeLessThan(80);

  // To the end, whose page is read when it is seen.
  const rows = Number(await table(page).getAttribute('aria-rowcount'));
  await page.keyboard.press('End');
  await expect(focused(page)).toHaveAttribute('aria-rowindex', String(rows));
  await expect(focused(page)).toHaveAttribute('data-line', /\d+/);
  await page.keyboard.press('k');
  await expect(focused(page)).toHaveAttribute('aria-rowindex', String(rows - 1));

  // Found by a text; the address holds it, and Esc lets go of it.
  await page.keyboard.press('/');
  await page.keyboard.type('tamper');
  await expect(page).toHaveURL(/find=tamper/);
  await expect(table(page)).not.toHaveAttribute('aria-rowcount', String(rows));
  await expect(table(page).locator('[data-line]').first()).toContainText(/tamper/i);
  const found = Number(await table(page).getAttribute('aria-rowcount')) - 1;
  expect(found).toBeGreaterThan(3);
  await page.keyboard.press('Escape');
  await expect(table(page)).toHaveAttribute('aria-rowcount', String(rows));

  // A bid typed where the focus is.
  await page.keyboard.press('Home');
  await page.keyboard.press('j');
  await expect(focused(page)).toHaveAttribute('data-line', /\d+/);
  const line = (await focused(page).getAttribute('data-line'))!;
  await page.keyboard.press('e');
  await page.keyboard.type('0.91');
  await page.keyboard.press('Enter');
  await expect(table(page).locator(`[data-line="${line}"] input`)).toHaveValue('0.91');
  await page.reload();
  await expect(table(page).locator(`[data-line="${line}"] input`)).toHaveValue('0.91');

  // Off the sheet, and back on it.
  await page.keyboard.press('j');
  await expect(focused(page)).toHaveAttribute('data-line', line);
  await page.keyboard.press('Delete');
  await expect(bar(page)).toHaveText(`${count(lines - 1)} lines on the sheet`);
  await page.keyboard.press('Control+z');
  await expect(bar(page)).toHaveText(`${count(lines)} lines on the sheet`);
  await expect(table(page).locator(`[data-line="${line}"] input`)).toHaveValue('0.91');

  // A whole group, by its head.
  await page.keyboard.press('Home');
  await expect(focused(page)).not.toHaveAttribute('data-line', /\d+/);
  const group = Number(/(\d+) lines?/.exec(await focused(page).innerText())![1]);
  await page.keyboard.press('Delete');
  await expect(bar(page)).toHaveText(`${count(lines - group)} lines on the sheet`);
  await page.keyboard.press('Control+z');
  await expect(bar(page)).toHaveText(`${count(lines)} lines on the sheet`);

  // What spends most first; each knows its campaign then.
  await page.getByRole('button', { name: /^Spend a week/ }).click();
  await expect(page).toHaveURL(/order=-spend/);
  await expect(table(page)).toHaveAttribute('aria-rowcount', String(lines + 1));
  const sheet = await callApi<OpenSheet>(stack.url, 'GET', '/api/1/sheet');
  expect(sheet.lines).toBe(lines);
});

test('until the sheet has been read nothing is said of it; an error says so and can be tried again', async ({
  page,
}) => {
  let broken = true;
  await page.route('**/api/1/sheet', (route) =>
    broken ? route.fulfill({ status: 503, json: { detail: 'Out of reach for now.' } }) : route.continue(),
  );
  await page.goto(`${stack.url}/ledger`);
  await expect(bar(page)).toHaveText(/Counting|could not be read/);
  await expect(bar(page)).not.toHaveText('The sheet is empty');
  await expect(page.getByText('Out of reach for now.')).toBeVisible({ timeout: 20_000 });
  broken = false;
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(bar(page)).toHaveText(/lines on the sheet/);
});
