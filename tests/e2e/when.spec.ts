import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import postgres from 'postgres';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { callQuayside, startStack, structureOf, type Stack } from '../support/stack.ts';

/** When money works: a schedule drawn, sent, seen at the marketplace, and compared after some weeks, through the interface. */

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const rows = (page: Page) => page.locator('[role=row][data-key]');
const sheet = (page: Page) => page.getByTestId('sheet-lines');
const panel = (page: Page) => page.getByRole('complementary', { name: 'Why' });
const day = (page: Page, name: string) => panel(page).getByRole('slider', { name: new RegExp(`^${name},`) });
const liveOf = async (name: string) =>
  (await structureOf(stack.quayside)).find(
    ({ entity, campaign }) => entity === 'campaign' && campaign === name,
  )!.schedule;

test('what is proposed: why, taken in one key, taken back; in Round it waits as well', async ({ page }) => {
  await page.goto(`${stack.url}/spend?part=when`);
  await expect(page.getByTestId('hours-sentence')).toContainText(
    /Schedules of \d+ campaigns are worth [\d.]+ a week/,
  );
  await expect(panel(page).getByTestId('why-sentence')).toContainText(
    /A click on Sundays sells 0\.\d+ times the mean/,
  );
  await expect(panel(page).getByTestId('why-working')).toContainText('Sunday, beside the mean');
  // Seven lines, and beside them what weekdays bring in all.
  await expect(panel(page).getByRole('slider')).toHaveCount(7);
  await expect(panel(page).getByRole('columnheader', { name: 'in all, a day' })).toBeVisible();
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText(/^\d+ lines? on the sheet$/);
  await expect(rows(page).filter({ hasText: 'on the sheet' })).toHaveCount(1);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await page.goto(`${stack.url}/round?queue=hours`);
  await expect(rows(page).first()).toContainText('Schedule Sun');
  await rows(page).first().click();
  await panel(page).getByRole('link', { name: 'Its hours, and how it comes about' }).click();
  await expect(panel(page).getByTestId('week-picture')).toBeVisible();
});

test('drawn by hand: arrows lift, a drag draws, values are typed, a day is copied; a reload loses nothing', async ({
  page,
}) => {
  await page.goto(`${stack.url}/spend?part=when&sort=-spend`);
  const said = panel(page).getByTestId('drawn-sentence');
  await expect(said).toContainText('It stands at 100 % at all hours');
  // `e` goes to the first day; its whole day is chosen.
  await page.keyboard.press('e');
  await expect(day(page, 'Monday')).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await expect(day(page, 'Monday')).toHaveAttribute('aria-valuetext', '0 to 24 o’clock: 80 %');
  await expect(said).toContainText(/^Monday 80 %: [+−]\d/);
  // One hour and the next two, off.
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Home');
  for (let at = 0; at < 3; at++) await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('Delete');
  await expect(said).toContainText('Monday 0–1 h off, 1–24 h 80 %');
  // Typed for all of Tuesday.
  await day(page, 'Tuesday').focus();
  const field = panel(page).getByRole('textbox', { name: 'Multiplier of the hours that are chosen' });
  await field.fill('130');
  await field.press('Enter');
  await expect(said).toContainText('Tuesday 130 %');
  await expect(said).toContainText(/One click may cost at most [\d.]+, [\d.]+ now/);
  await panel(page).getByRole('combobox', { name: 'Copy Tuesday to other days' }).selectOption('weekend');
  await expect(said).toContainText('Saturday and Sunday 130 %');
  await page.reload();
  await expect(said).toContainText('Saturday and Sunday 130 %');
  await panel(page).getByRole('button', { name: 'As it stands' }).click();
  await expect(said).toContainText('It stands at 100 % at all hours');
  // Dragged from noon to six, and up by three steps.
  const box = (await day(page, 'Friday').boundingBox())!;
  const at = (hour: number) => box.x + 34 + ((box.width - 34 - 46) * (hour + 0.5)) / 24;
  await page.mouse.move(at(12), box.y + 20);
  await page.mouse.down();
  await page.mouse.move(at(15), box.y + 14, { steps: 4 });
  await page.mouse.move(at(17), box.y + 8, { steps: 4 });
  await page.mouse.up();
  await expect(said).toContainText('Friday 12–18 h 130 %');
  await panel(page).getByRole('button', { name: 'As it stands' }).click();
});

test('other scopes; marked campaigns get one schedule at once; a file is looked at first', async ({
  page,
}) => {
  await page.goto(`${stack.url}/spend?part=when&sort=-spend`);
  await expect(panel(page).getByTestId('week-picture')).toBeVisible();
  const whose = panel(page).getByRole('combobox', { name: 'Whose hours' });
  await whose.selectOption('account');
  await expect(panel(page).getByRole('slider')).toHaveCount(0);
  await expect(panel(page).locator('tr[data-verdict]')).toHaveCount(7);
  await expect(page).toHaveURL(/scope=account/);
  await whose.selectOption('product');
  await expect(panel(page)).toContainText('in all: TT-');
  await panel(page).getByRole('combobox', { name: 'Times side by side' }).selectOption('hours');
  await expect(panel(page).locator('tr[data-verdict]')).toHaveCount(24);
  await panel(page).getByRole('combobox', { name: 'Times side by side' }).selectOption('weekdays');
  await whose.selectOption('campaign');
  await expect(panel(page).getByRole('slider')).toHaveCount(7);
  await page.getByRole('combobox', { name: 'Weeks that tell' }).selectOption('4');
  await expect(page.getByTestId('hours-sentence')).toContainText('4 whole weeks');
  const first = rows(page).nth(0);
  await first.getByRole('checkbox').check();
  await rows(page).nth(1).getByRole('checkbox').check();
  await page.keyboard.press('e');
  await page.keyboard.press('ArrowDown');
  await panel(page).getByRole('button', { name: 'Put this schedule on 2 marked campaigns' }).click();
  await expect(sheet(page)).toHaveText('2 lines on the sheet');
  await page.getByRole('heading', { name: 'Spend', exact: true }).click();
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  const name = await first.locator('b').first().innerText();
  const text = `campaign,weekday,hour,multiplier\n${name},7,0,0\n${name},7,31,0\n`;
  await page
    .getByLabel('A file of schedules')
    .setInputFiles({ name: 'mine.csv', mimeType: 'text/csv', buffer: Buffer.from(text) });
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('1 schedule would change.');
  await expect(dialog).toContainText('100 % at all hours → Sunday 0–1 h off');
  await expect(dialog).toContainText('Line 3, hour: “31” is no hour: 0 to 23.');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await dialog.getByRole('button', { name: 'Add 1 schedule to the sheet' }).click();
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('drawn, sent, no impressions in its hours, compared after three weeks, taken back', async ({ page }) => {
  test.setTimeout(240_000);
  await page.goto(`${stack.url}/spend?part=when&sort=-spend`);
  await expect(panel(page).getByRole('slider')).toHaveCount(7);
  const name = await panel(page).getByRole('heading', { level: 2 }).innerText();
  await day(page, 'Sunday').focus();
  await page.keyboard.press('Delete');
  await expect(panel(page).getByTestId('drawn-sentence')).toContainText('Sunday off');
  await panel(page).getByRole('button', { name: 'Put on the sheet' }).click();
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await page.getByRole('link', { name: 'Check and send' }).click();
  await expect(page.getByText('Sunday off').first()).toBeVisible();
  await page.getByRole('button', { name: 'Send 1 line to Quayside' }).click();
  await expect(sheet(page)).toHaveText('The sheet is empty', { timeout: 30_000 });
  await expect.poll(() => liveOf(name)).toBe('sunday 0-23 0');

  await page.goto(`${stack.url}/spend?part=when&sort=-spend`);
  await expect(panel(page).getByTestId('after-sentence')).toContainText('too early to say');
  await callQuayside(stack.quayside, 'POST', '/clock/advance', { days: 30 });
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/fetch', {});
  await waitForJob(stack.url, jobId);
  const sql = postgres(stack.databaseUrl, { max: 1 });
  const [shown] = await sql<[{ impressions: number }]>`
    select coalesce(sum(h.impressions), 0)::int as impressions from campaign_hour h join campaign c using (account_id, campaign_id)
    where c.name = ${name} and extract(isodow from h.day) = 7 and h.day > (select max(sent_on) from sheet)`;
  await sql.end();
  expect(shown.impressions).toBe(0);
  await page.goto(`${stack.url}/spend?part=when&q=${encodeURIComponent(name)}`);
  await expect(panel(page).getByTestId('after-sentence')).toContainText(
    /3 weeks after beside 8 weeks before/,
  );
  await expect(panel(page).getByRole('row', { name: /^Sunday 100 % → off/ })).toContainText('→ 0');
  await expect(panel(page)).toContainText('Organic rank over');
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
    .analyze();
  expect(violations.map(({ id }) => id)).toEqual([]);

  await page.goto(`${stack.url}/ledger`);
  await page
    .getByRole('button', { name: /^Sheet \d+, / })
    .first()
    .click();
  await page
    .getByRole('row')
    .filter({ hasText: 'Schedule' })
    .getByRole('button', { name: /^Revert/ })
    .click();
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await page.getByRole('link', { name: 'Check and send' }).click();
  await page.getByRole('button', { name: 'Send 1 line to Quayside' }).click();
  await expect(sheet(page)).toHaveText('The sheet is empty', { timeout: 30_000 });
  await expect.poll(() => liveOf(name)).toBe('');
});
