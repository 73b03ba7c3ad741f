import { readFileSync } from 'node:fs';
import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { callApi } from '../../scripts/lib/processes.ts';
import type { MovedAnswer } from '../../src/answers/today.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** The account in one look, through the interface. */

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const numbers = (text: string): number[] =>
  [...text.matchAll(/[−-]?\+?\d[\d,]*\.\d+/g)].map(([found]) =>
    Number(found.replace('−', '-').replace('+', '').replaceAll(',', '')),
  );

const open = async (page: Page) => {
  await page.goto(`${stack.url}/today`);
  await expect(page.getByTestId('moved-sentence')).toBeVisible();
};

test('an account without its place opens on Today; figures, queues, what is known and fresh', async ({
  page,
}) => {
  await page.goto(stack.url);
  await expect(page.getByRole('heading', { name: 'Today', level: 1 })).toBeVisible();
  await expect(page.getByTestId('today-sentence')).toContainText(
    /an ACOS of \d+ %, (over|under) the goal of 26 %/,
  );
  await expect(page.locator('[data-standing=organic_share]')).toHaveText(/^\d+ %$/);
  await expect(page.getByTestId('next-sentence')).toContainText(/\d findings, [\d,.]+ a week/);
  await expect(page.getByRole('region', { name: 'Today' })).toContainText(/\d+ targets under/);
  await expect(page.getByRole('region', { name: 'Stock' })).toContainText('Kombucha');
  await expect(page.getByRole('region', { name: 'How fresh it is' })).toContainText('targets-daily');
  await page.getByRole('link', { name: 'Budgets', exact: true }).click();
  await expect(page).toHaveURL(/round\?queue=budgets/);
  await page.goBack();
  await page.getByRole('link', { name: /targets under/ }).click();
  await expect(page).toHaveURL(/explore.*verdict/);
  await expect(page.locator('[role=row][data-key]').first()).toBeVisible();
});

test('what moved, checked by hand: parts sum to the change, a member opens into its parts', async ({
  page,
}) => {
  await open(page);
  const sentence = await page.getByTestId('moved-sentence').innerText();
  const [change, ...parts] = numbers(sentence) as [number, ...number[]];
  const sum = parts.reduce((total, part) => total + part, 0);
  expect(Math.abs(Math.abs(sum) - change)).toBeLessThan(0.03);
  await expect(page.getByRole('img', { name: /^From [\d,.]+ to [\d,.]+: .+ from clicks/ })).toBeVisible();
  const members = page.getByRole('list', { name: 'Members that moved it most' });
  const first = members.getByRole('button').first();
  const whole = numbers(await first.innerText())[0]!;
  await first.click();
  const inside = members.getByRole('list', { name: 'What it is made of' });
  await expect(inside.getByRole('button').first()).toBeVisible();
  const answers = await inside.getByRole('button').allInnerTexts();
  expect(Math.abs(answers.reduce((total, text) => total + numbers(text)[0]!, 0) - whole)).toBeLessThan(0.1);
  await inside.getByRole('button').first().click();
  await expect(inside.getByRole('list', { name: 'What it is made of' })).toBeVisible();
  // ACOS in points: the state is in the address.
  await page.getByRole('button', { name: 'ACOS', exact: true }).click();
  await expect(page.getByTestId('moved-sentence')).toContainText(/ACOS (rose|fell) by [\d.]+ points/);
  await expect(page).toHaveURL(/moved=acos/);
  const span = await page.evaluate(() => fetch('/api/1/season').then((response) => response.json()));
  const { from, to } = (span as { defaultWindow: { from: string; to: string } }).defaultWindow;
  const told = await callApi<MovedAnswer>(
    stack.url,
    'GET',
    `/api/1/today/moved?figure=acos&from=${from}&to=${to}`,
  );
  const points = Math.abs((told.after! - told.before!) * 100).toFixed(2);
  await expect(page.getByTestId('moved-sentence')).toContainText(`by ${points} points`);
});

test('a note is kept, flagged on the strip, found, removed, and brought back', async ({ page }) => {
  await open(page);
  await page.keyboard.press('n');
  const body = page.getByRole('textbox', { name: 'What happened' });
  await expect(body).toBeFocused();
  await body.fill('Price of the crocks up');
  await page.getByRole('combobox', { name: 'About' }).selectOption('TT-CRK5');
  await page.getByRole('button', { name: 'Note it' }).click();
  const notes = page.getByRole('region', { name: 'Notes' });
  await expect(notes).toContainText('Price of the crocks up · Stoneware crock');
  await expect(page.locator('[data-note]')).toHaveCount(1);
  await notes.getByRole('searchbox').fill('nothing like it');
  await expect(notes).toContainText('No note holds these words.');
  await notes.getByRole('searchbox').fill('CROCKS');
  await expect(notes).toContainText('Price of the crocks up');
  await page.getByRole('button', { name: /^Remove the note/ }).click();
  await expect(page.locator('[data-note]')).toHaveCount(0);
  await page.getByRole('heading', { name: 'Today' }).click();
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-note]')).toHaveCount(1);
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-note]')).toHaveCount(0);
});

test('the accessibility rules, at two widths', async ({ page }) => {
  await open(page);
  await expect(page.getByTestId('next-sentence')).toBeVisible();
  const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag22aa']).analyze();
  expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html.slice(0, 160))])).toEqual([]);
  await page.setViewportSize({ width: 1024, height: 768 });
  await expect
    .poll(() => page.evaluate(() => document.documentElement.scrollWidth))
    .toBeLessThanOrEqual(1024);
  const strip = page.getByRole('group', { name: /^Season/ });
  await expect.poll(async () => (await strip.boundingBox())!.width).toBeLessThan(700);
});

test('a report is made, written on, opened to print and printed as PDF; its figures stay', async ({
  page,
  request,
}) => {
  await open(page);
  await page.getByRole('link', { name: 'Weekly report' }).click();
  await expect(page.getByText('Choose days on the strip above')).toBeVisible();
  await page.getByRole('button', { name: /^Report on/ }).click();
  const made = page.getByTestId('report-page');
  await expect(made).toContainText('Ad sales');
  await expect(made).toContainText(/Figures as of \d+ Nov 2026/);
  const words = page.getByRole('textbox', { name: 'Words of the report' });
  await expect(words).toHaveValue(/of ads sold .+ an ACOS of \d+ %/);
  await words.fill('A quiet month: <b>stock</b> of kombucha jars ran out.');
  await page.getByRole('heading', { name: 'Made so far' }).click();
  await expect(made).toContainText('A quiet month: <b>stock</b> of kombucha jars ran out.');
  const figures = await made.getByRole('table').first().innerText();
  const href = await page.getByRole('link', { name: 'Open to print' }).getAttribute('href');
  const html = await (await request.get(`${stack.url}${href}`)).text();
  expect(html).toContain('&lt;b&gt;stock&lt;/b&gt;');
  expect(html).not.toMatch(/<script|https?:\/\//);
  const download = page.waitForEvent('download', { timeout: 60_000 });
  await page.getByRole('link', { name: 'Save as PDF' }).click();
  const pdf = readFileSync(await (await download).path());
  expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
  expect(pdf.length).toBeGreaterThan(10_000);
  // Its figures are those of its day, whatever is judged by now.
  await callApi(stack.url, 'PUT', '/api/1/goals', { scope: 'account', key: '', targetAcos: 0.11 });
  await page.reload();
  await expect(made).toBeVisible();
  expect(await made.getByRole('table').first().innerText()).toBe(figures);
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByText('None yet.')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: /^18 Oct/ })).toBeVisible();
});
