import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { startStack, structureOf, type Stack } from '../support/stack.ts';

/** Routines through the interface: played, turned on, held, stopped, sent, taken back; ranks and the switch. */

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const panel = (page: Page, name: 'Routine' | 'Run') => page.getByRole('complementary', { name });
const rows = (page: Page) => page.locator('[role=row][data-key]');
const row = (page: Page, text: string) => rows(page).filter({ hasText: text }).first();
const sheet = (page: Page) => page.getByTestId('sheet-lines');
const bids = async () =>
  (await structureOf(stack.quayside))
    .filter(({ entity, bid }) => entity === 'target' && bid !== null)
    .map((one) => `${one.target_id} ${one.bid}`)
    .sort();

test('a routine is played over the past; a change of it shows the difference before it is kept, and is undone', async ({
  page,
}) => {
  await page.goto(`${stack.url}/1/routines`);
  await expect(page.getByTestId('routines-sentence')).toContainText('No routine is on');
  await row(page, 'Weekly bids, evidence').click();
  await panel(page, 'Routine').getByRole('button', { name: 'Play it' }).click();
  const dry = page.getByTestId('dry-run');
  await expect(dry).toContainText(/In 4 runs it would have taken \d+ findings/, { timeout: 60_000 });
  await expect(page.getByRole('slider', { name: 'Night' })).toHaveAttribute('aria-valuetext', /\d+ taken/);
  // Narrower: fewer findings, and the difference to what is saved is told.
  await panel(page, 'Routine').getByLabel('Clicks at least').fill('100');
  await panel(page, 'Routine').getByLabel('Clicks at least').press('Enter');
  await expect(panel(page, 'Routine')).toContainText('It was changed since it was played: play it again.');
  await panel(page, 'Routine').getByRole('button', { name: 'Play it' }).click();
  await expect(page.getByTestId('dry-difference')).toContainText(/The change makes \d+ findings fewer/, {
    timeout: 60_000,
  });
  await panel(page, 'Routine').getByRole('button', { name: 'Keep the changes' }).click();
  await expect(page.getByText('“Weekly bids, evidence” changed')).toBeVisible();
  await expect(panel(page, 'Routine').getByLabel('Clicks at least')).toHaveValue('100');
  await page.getByRole('heading', { name: 'Routines', level: 1 }).click();
  await page.keyboard.press('Control+z');
  await expect(panel(page, 'Routine').getByLabel('Clicks at least')).toHaveValue('0');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('what moves whole campaigns is played too: each night with its campaigns, what it found there and what it brings', async ({
  page,
}) => {
  await page.goto(`${stack.url}/1/routines`);
  for (const [name, says] of [
    ['Weekly placements', /A click on .+ sells [\d.]+ times the mean/],
    ['Nightly budgets', /It has budget for \d+ % of its clicks’ time/],
  ] as const) {
    await row(page, name).click();
    await panel(page, 'Routine').getByLabel('First night').fill('2026-11-02');
    await panel(page, 'Routine').getByRole('button', { name: 'Play it' }).click();
    const dry = page.getByTestId('dry-run');
    await expect(dry).toContainText(/it would have taken \d+ findings/, { timeout: 60_000 });
    await expect(dry).toContainText(says);
    await expect(dry).toContainText(/Profit [+−][\d,.]+ \([+−][\d,.]+ to [+−][\d,.]+\)/);
  }
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('a routine is made, runs, holds its sheet, is stopped by its key, held again, sent, and taken back', async ({
  page,
}) => {
  const before = await bids();
  await page.goto(`${stack.url}/1/routines`);
  await page.getByRole('button', { name: 'New routine' }).click();
  const form = panel(page, 'Routine');
  await form.getByLabel('Name of the routine').fill('Three a night');
  await expect(form.getByRole('alert')).toContainText('Choose at least one kind');
  await form.getByLabel('Bids', { exact: true }).check();
  await form.getByLabel('Which way it moves').selectOption('cuts');
  await form.getByLabel('Lines a run').fill('0');
  await form.getByLabel('Lines a run').press('Enter');
  await expect(form.getByRole('alert')).toContainText('A limit of 0 lines would let nothing through');
  await expect(form.getByRole('button', { name: 'Make it' })).toBeDisabled();
  await form.getByLabel('Lines a run').fill('3');
  await form.getByLabel('Lines a run').press('Enter');
  await form.getByRole('button', { name: 'Make it' }).click();
  await row(page, 'Three a night').click();
  await form.getByRole('button', { name: 'Turn on' }).click();
  await expect(page.getByTestId('routines-sentence')).toContainText('1 routine is on');
  await form.getByRole('button', { name: 'Run now' }).click();
  await page.getByRole('button', { name: /^Runs/ }).click();
  await expect(row(page, 'Three a night')).toContainText('holds 3 lines', { timeout: 30_000 });
  await expect(page.getByTestId('run-sentence')).toContainText('took 3 in 3 lines');
  const items = panel(page, 'Run').getByRole('article');
  await expect(items.first()).toContainText('Cut the bid');
  await expect(items.first()).toContainText('taken');
  // Why the others were left is said, and found.
  await panel(page, 'Run').getByLabel('What became of them').selectOption('left');
  await expect(items.first()).toContainText('It would raise; this routine only cuts.');
  await page.keyboard.press('/');
  await page.keyboard.type('no such thing');
  await expect(panel(page, 'Run')).toContainText('Nothing of it is like that.');
  await panel(page, 'Run').getByLabel('Find in what it found').fill('');
  await panel(page, 'Run').getByLabel('What became of them').selectOption('');
  await page.getByRole('heading', { name: 'Routines', level: 1 }).click();
  await page.keyboard.press('h');
  await expect(row(page, 'Three a night')).toContainText('was stopped: nothing was sent');
  await page.keyboard.press('Control+z');
  await expect(row(page, 'Three a night')).toContainText('holds 3 lines');
  expect(await bids()).toEqual(before);
  // Who looks at Round or at Today is told, and led back to the run.
  await page.goto(`${stack.url}/1/round`);
  await expect(page.getByTestId('round-sentence')).toContainText(
    '“Three a night” holds 3 lines and sends them',
  );
  await page.goto(`${stack.url}/1/today`);
  const told = page.getByRole('region', { name: 'Routines' });
  await expect(told).toContainText('“Three a night” holds 3 lines and sends them');
  await told.getByRole('link', { name: '“Three a night”' }).click();
  await panel(page, 'Run').getByRole('button', { name: 'Send 3 lines now' }).click();
  await expect(row(page, 'Three a night')).toContainText('sent 3 lines', { timeout: 30_000 });
  const after = await bids();
  expect(after.filter((one) => !before.includes(one))).toHaveLength(3);
  await panel(page, 'Run').getByRole('button', { name: 'Take the run back' }).click();
  await expect(sheet(page)).toHaveText('3 lines on the sheet');
  await page.getByRole('link', { name: 'Check and send' }).click();
  await page.getByRole('button', { name: 'Send 3 lines to Quayside' }).click();
  await expect.poll(bids, { timeout: 30_000 }).toEqual(before);
  const file = page.waitForEvent('download');
  await page.goto(`${stack.url}/1/routines?part=runs`);
  await page.getByRole('link', { name: 'All of the log as CSV' }).click();
  expect((await file).suggestedFilename()).toBe('routines.csv');
});

test('ranks by keys, and the clash of two: the higher has it, the lower says so', async ({ page }) => {
  await page.goto(`${stack.url}/1/routines`);
  await row(page, 'Three a night').click();
  await page.keyboard.press('Shift+K');
  await expect(rows(page).nth(7)).toContainText('Three a night');
  await page.keyboard.press('Control+z');
  await expect(rows(page).nth(8)).toContainText('Three a night');
  const clash = async (name: string) => {
    await row(page, name).click();
    await panel(page, 'Routine').getByRole('button', { name: 'Run now' }).click();
  };
  await clash('Stop spend without orders');
  await page.getByRole('button', { name: /^Runs/ }).click();
  await expect(row(page, 'Stop spend without orders')).toContainText('holds', { timeout: 30_000 });
  await page.getByRole('button', { name: /^Routines/ }).click();
  await row(page, 'Three a night').click();
  await panel(page, 'Routine').getByLabel('Days of grace').fill('0');
  await panel(page, 'Routine').getByLabel('Days of grace').press('Enter');
  await panel(page, 'Routine').getByLabel('Lines a run').fill('90');
  await panel(page, 'Routine').getByLabel('Lines a run').press('Enter');
  await panel(page, 'Routine').getByLabel('Days after a hand').fill('0');
  await panel(page, 'Routine').getByLabel('Days after a hand').press('Enter');
  await panel(page, 'Routine').getByRole('button', { name: 'Keep the changes' }).click();
  await expect(page.getByText('“Three a night” changed').first()).toBeVisible();
  await clash('Three a night');
  await page.getByRole('button', { name: /^Runs/ }).click();
  await expect(rows(page).first()).toContainText('Three a night', { timeout: 30_000 });
  await rows(page).first().click();
  await panel(page, 'Run').getByLabel('Find in what it found').fill('goes first');
  await expect(panel(page, 'Run').getByRole('article').first()).toContainText(
    '“Stop spend without orders” sets the same, and goes first.',
  );
});

test('one switch stops all at once, and lets them go on', async ({ page }) => {
  await page.goto(`${stack.url}/1/routines`);
  await page.getByRole('button', { name: 'Stop all routines' }).click();
  await expect(page.getByTestId('routines-sentence')).toContainText('All routines are stopped');
  await expect(panel(page, 'Routine').getByRole('button', { name: 'Run now' })).toBeDisabled();
  await page.getByRole('button', { name: /^Runs/ }).click();
  await row(page, 'Stop spend without orders').click();
  await panel(page, 'Run').getByRole('button', { name: /^Send/ }).click();
  await expect(page.getByText('All routines are stopped. Let them go on first.')).toBeVisible();
  await page.getByRole('button', { name: /^Routines/ }).click();
  await page.getByRole('button', { name: 'Let routines go on' }).click();
  await expect(page.getByTestId('routines-sentence')).toContainText('1 routine is on');
});

test('stages of a budget group: shown with their figures, run, and held as one sheet', async ({ page }) => {
  await page.goto(`${stack.url}/1/routines`);
  await page.getByRole('button', { name: 'New routine' }).click();
  const form = panel(page, 'Routine');
  await form.getByLabel('Name of the routine').fill('Crocks by stages');
  await form.getByLabel('Stages of a budget').check();
  await expect(form.getByRole('alert')).toContainText('Stages are of a budget group');
  await form.getByLabel('Where it acts').selectOption('budget_groups');
  await form.getByRole('button', { name: 'Make it' }).click();
  await row(page, 'Crocks by stages').click();
  for (const stage of ['Research', 'Tuning', 'Earning'])
    await expect(form.getByRole('region', { name: stage })).toContainText(/\d+ campaigns?/, {
      timeout: 30_000,
    });
  await expect(form.getByRole('region', { name: 'Research' })).toContainText('Crock 2 automatic');
  await form.getByRole('button', { name: 'Run now' }).click();
  await page.getByRole('button', { name: /^Runs/ }).click();
  await expect(row(page, 'Crocks by stages')).toContainText('holds', { timeout: 30_000 });
  await row(page, 'Crocks by stages').click();
  await panel(page, 'Run').getByLabel('Find in what it found').fill('The stage has');
  await expect(panel(page, 'Run').getByRole('article').first()).toContainText(/Research|Tuning|Earning/);
});

test('routines and runs are accessible', async ({ page }) => {
  for (const part of ['', '?part=runs']) {
    await page.goto(`${stack.url}/1/routines${part}`);
    await expect(rows(page).first()).toBeVisible();
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
      .analyze();
    expect(violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
  }
});
