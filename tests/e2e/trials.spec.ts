import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { callQuayside, startStack, type Stack } from '../support/stack.ts';

/** A trial through the interface: made of lines on the sheet, sent, over, decided, and that taken back. */

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const sheet = (page: Page) => page.getByTestId('sheet-lines');
const panel = (page: Page) => page.getByRole('complementary', { name: 'Why' });

test('lines are tried, sent, flagged on the season strip, over after their days, kept or taken back', async ({
  page,
}) => {
  test.setTimeout(240_000);
  await page.goto(`${stack.url}/spend?part=when&sort=-spend`);
  await expect(panel(page).getByRole('slider')).toHaveCount(7);
  const name = await panel(page).getByRole('heading', { level: 2 }).innerText();
  await panel(page)
    .getByRole('slider', { name: /^Sunday,/ })
    .focus();
  await page.keyboard.press('Delete');
  await panel(page).getByRole('button', { name: 'Put on the sheet' }).click();
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await page.getByRole('link', { name: 'Check and send' }).click();
  await page.getByRole('button', { name: `Try ${name}` }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Try 1 line');
  await dialog.getByRole('textbox', { name: 'Days' }).fill('3');
  await dialog.getByRole('textbox', { name: 'Days' }).blur();
  await expect(dialog.getByRole('alert')).toContainText('7 to 84 days');
  await expect(dialog.getByRole('button', { name: 'Make it a trial' })).toBeDisabled();
  await dialog.getByRole('textbox', { name: 'Days' }).fill('14');
  await dialog.getByRole('textbox', { name: 'Days' }).blur();
  await dialog.getByRole('textbox', { name: 'Name of the trial' }).fill('Sundays off');
  await dialog.getByRole('button', { name: 'Make it a trial' }).click();
  const planned = page.getByTestId('planned-trial');
  await expect(planned).toContainText('Trial “Sundays off”: 1 line for 14 days once sent');
  // What was made is taken back like all else, and made again.
  await page.keyboard.press('Control+z');
  await expect(planned).toHaveCount(0);
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await page.getByRole('button', { name: 'Try as a trial' }).click();
  await page.getByRole('textbox', { name: 'Name of the trial' }).fill('Sundays off');
  await page.getByRole('textbox', { name: 'Days' }).fill('14');
  await page.getByRole('textbox', { name: 'Days' }).blur();
  await page.getByLabel('Compared with').selectOption('the same hours of other weekdays');
  await page.getByRole('button', { name: 'Make it a trial' }).click();
  await expect(planned).toContainText('compared with the same hours of other weekdays');
  await page.getByRole('button', { name: 'Send 1 line to Quayside' }).click();
  await expect(sheet(page)).toHaveText('The sheet is empty', { timeout: 30_000 });
  await page.goto(`${stack.url}/ledger?sheet=trials`);
  const own = page.getByRole('region', { name: 'Trial Sundays off' });
  await expect(own).toContainText('day 0 of 14');
  await expect(own).toContainText('nothing can be said yet');
  await page.reload();
  await expect(page.locator('[data-trial] title').first()).toContainText('Trial “Sundays off”');

  await callQuayside(stack.quayside, 'POST', '/clock/advance', { days: 21 });
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/fetch', {});
  await waitForJob(stack.url, jobId);
  await page.goto(`${stack.url}/round?queue=trials`);
  const row = page.locator('[role=row][data-key]').filter({ hasText: 'Sundays off' });
  await expect(row).toContainText('yours to decide', { timeout: 20_000 });
  await row.click();
  const result = panel(page).getByTestId('trial-result');
  await expect(result).toContainText(/Gain against the goal: [+−][\d.]+ a week/);
  await expect(result).toContainText('Beside the same hours of other weekdays.');
  await expect(result.getByRole('row', { name: /^spend/ })).toBeVisible();
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
    .analyze();
  expect(violations.map(({ id }) => id)).toEqual([]);
  await result.getByRole('button', { name: 'Take it back' }).click();
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await expect(row).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await page.goto(`${stack.url}/ledger?sheet=trials`);
  await expect(own).toContainText('over: decide');
  await own.getByRole('button', { name: 'Keep it' }).click();
  await expect(own).toContainText('kept');
  await expect(own.getByRole('button', { name: 'Keep it' })).toHaveCount(0);
});
