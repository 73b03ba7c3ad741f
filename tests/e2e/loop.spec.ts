import { expect, test, type Page } from '@playwright/test';
import { parse } from 'csv-parse/sync';
import { reportText, startStack, structureOf, type Stack } from '../support/stack.ts';

/** The whole way: reports in, judged terms and bids, changes out, effect back. */

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(false);
});
test.afterAll(() => stack.stop());

const focused = (page: Page) => page.locator('[role=row][data-focus=true]');

/** Walks down with j to the first finding whose row fits; its subject. */
async function walkTo(page: Page, fits: RegExp): Promise<string> {
  await expect(focused(page)).toHaveCount(1);
  for (let i = 0; i < 60; i++) {
    const text = (await focused(page).innerText()).replaceAll('\n', ' ');
    if (fits.test(text))
      return (
        await focused(page).locator('[role=gridcell]').nth(1).locator('div').first().innerText()
      ).trim();
    const key = await focused(page).getAttribute('data-key');
    await page.keyboard.press('j');
    await expect(focused(page)).not.toHaveAttribute('data-key', key!);
  }
  throw new Error(`No finding fits ${fits}`);
}

const linesOnSheet = (page: Page, count: RegExp) => expect(page.getByTestId('sheet-lines')).toHaveText(count);

test('fetch, decide with the keyboard, send, let a week pass, see the effect, revert', async ({ page }) => {
  const errors: string[] = [];
  page.on('console', (message) => message.type() === 'error' && errors.push(message.text()));
  page.on('pageerror', (error) => errors.push(error.message));

  await page.goto(`${stack.url}/round`);
  await expect(page.getByText('no settled figures to judge yet')).toBeVisible();
  await page.keyboard.press('g');
  await page.keyboard.press('d');
  await expect(page).toHaveURL(/\/data/);
  await expect(page.getByTestId('data-sentence')).toContainText('Nothing is loaded yet');
  await page.getByRole('button', { name: 'Fetch from the marketplace' }).click();
  await expect(page.getByText('Fetched. One line for each report')).toBeVisible({ timeout: 90_000 });
  for (const report of ['structure', 'targets-daily', 'terms-daily', 'placements-daily', 'products-daily']) {
    await expect(page.getByRole('cell', { name: report, exact: true })).toBeVisible();
  }

  await page.keyboard.press('g');
  await page.keyboard.press('r');
  await expect(page.getByTestId('round-sentence')).toContainText('findings');
  await page.keyboard.press(']');
  await expect(page).toHaveURL(/queue=terms/);
  const harvested = await walkTo(page, /Harvest exact/);
  await expect(page.getByTestId('why-sentence')).toContainText('Give it a keyword of its own');
  await page.keyboard.press('a');
  await linesOnSheet(page, /^[2-9] lines/);

  const negated = await walkTo(page, /Negate exact/);
  const negatedIn = (await focused(page).innerText()).match(/Negate exact\s+in (.+)/)![1]!.trim();
  await expect(page.getByTestId('why-sentence')).toContainText('Stop paying for it here');
  await page.keyboard.press('a');

  await page.keyboard.press(']');
  await expect(page).toHaveURL(/queue=targets/);
  const cut = await walkTo(page, /Cut bid .*/);
  const cutKey = (await focused(page).getAttribute('data-key'))!;
  await expect(page.getByTestId('why-working')).toContainText('θ');
  await page.keyboard.press('a');
  await expect(page.locator(`[data-key="${cutKey}"]`)).toHaveCount(0);

  await page.getByRole('link', { name: 'Check and send' }).click();
  await expect(page.getByRole('grid', { name: 'Lines of the open sheet' })).toContainText(harvested);
  const before = await structureOf(stack.quayside);
  await page.getByRole('button', { name: /^Send \d+ lines to Quayside/ }).click();
  await expect(page.getByTestId('sent-sentence')).toContainText('lines applied on 21 Nov 2026');
  await expect(page.getByText('Before and after appear once days after sending have settled.')).toBeVisible();

  // The marketplace has it.
  const after = await structureOf(stack.quayside);
  const keyword = after.find(
    (row) => row.entity === 'target' && row.expression === harvested && row.match_type === 'exact',
  );
  expect(keyword).toBeTruthy();
  expect(
    after.some(
      (row) => row.entity === 'negative' && row.expression === negated && row.ad_group === negatedIn,
    ),
  ).toBe(true);
  const bids = (rows: typeof after) =>
    new Map(rows.filter((row) => row.entity === 'target').map((row) => [row.target_id, row.bid]));
  const old = bids(before);
  const changed = [...bids(after)].filter(([id, bid]) => old.has(id) && old.get(id) !== bid);
  expect(changed).toHaveLength(1);

  // A week passes.
  await page.keyboard.press('g');
  await page.keyboard.press('d');
  await page.getByRole('button', { name: '7 days', exact: true }).click();
  await expect(page.getByTestId('data-sentence')).toContainText('28 Nov 2026', { timeout: 120_000 });
  const rows = parse(await reportText(stack.quayside, 'terms-daily', '2026-11-22', '2026-11-28'), {
    columns: true,
  }) as Record<string, string>[];
  expect(rows.filter((row) => row.term === negated && row.ad_group === negatedIn)).toEqual([]);
  const arrived = rows.filter((row) => row.term === harvested && Number(row.clicks) > 0);
  expect(arrived.map((row) => row.target_id)).toContain(keyword!.target_id);
  // It is served once where it was caught: what blocks it there holds.
  const isolatedIn = after
    .filter((row) => row.entity === 'negative' && row.expression === harvested)
    .map((row) => row.ad_group);
  expect(isolatedIn.length).toBeGreaterThan(0);
  expect(arrived.filter((row) => isolatedIn.includes(row.ad_group!))).toEqual([]);

  // The ledger shows it on settled days, and takes the bid back.
  await page.keyboard.press('g');
  await page.keyboard.press('l');
  await page.getByRole('button', { name: /^Sheet \d+, 21 Nov/ }).click();
  await expect(page.getByTestId('sent-sentence')).toContainText('settled days each side');
  const negative = page
    .getByRole('row')
    .filter({ hasText: negated })
    .filter({ hasText: negatedIn })
    .filter({ hasText: 'Negative exact' });
  await expect(negative.getByRole('gridcell').nth(5)).toContainText('0.00 0 clicks');
  // Two settled days of seven: whether it worked is not said yet, of no line and not of the sheet.
  await expect(negative.getByTestId('outcome')).toHaveText('too early');
  await expect(page.getByTestId('sheet-outcome')).toContainText('Too early to say');
  await page
    .getByRole('row')
    .filter({ hasText: cut })
    .filter({ hasText: 'Bid of' })
    .getByRole('button', { name: /^Revert/ })
    .click();
  await linesOnSheet(page, /^1 line on the sheet/);
  await page.getByRole('link', { name: 'Check and send' }).click();
  await page.getByRole('button', { name: 'Send 1 line to Quayside' }).click();
  await expect(page.getByTestId('sent-sentence')).toContainText('1 of 1 line applied on 28 Nov 2026');
  const reverted = bids(await structureOf(stack.quayside));
  expect(reverted.get(changed[0]![0])).toBe(old.get(changed[0]![0]));

  // Sheets are flagged on the season strip.
  await expect(
    page.locator('svg[aria-label^="Season"] title', { hasText: '28 Nov 2026: 1 lines sent' }),
  ).toHaveCount(1);
  expect(errors).toEqual([]);
});
