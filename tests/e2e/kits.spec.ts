import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { callQuayside, reportText, startStack, structureOf, type Stack } from '../support/stack.ts';

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const sheet = (page: Page) => page.getByTestId('sheet-lines');
const sentence = (page: Page) => page.getByTestId('kit-sentence');
const begin = async (page: Page, sku: string) => {
  await page.goto(`${stack.url}/kits`);
  await page.getByRole('button', { name: 'New kit' }).click();
  await page.getByLabel('Add products').fill(sku);
  await page.getByLabel('Add products').press('Enter');
  await expect(page.getByRole('table', { name: `Parts for ${sku}` })).toBeVisible();
};
const put = (page: Page) => page.getByRole('button', { name: /lines onto the sheet$/ });

test('a full set for a product in twelve actions: planned, sent, seen at the marketplace, and shown', async ({
  page,
}) => {
  // Actions 1 to 3: new, which product, Enter.
  await begin(page, 'TT-PHS2');
  await expect(page.getByLabel('Code of TT-PHS2 in names')).toHaveValue(/\w/);
  // 4 to 6: what goes in.
  await page.getByRole('button', { name: /^Add \d+ that sold/ }).click();
  await page.getByRole('button', { name: /^Add \d+ suggested/ }).click();
  await page.getByRole('button', { name: /pages that are dearer/ }).click();
  // 7 and 8: names of its own.
  await page.getByLabel('Code of TT-PHS2 in names').fill('Strips kit');
  await page.getByLabel('Budget of the kit').fill('90');
  await page.getByLabel('Budget of the kit').press('Enter');
  await expect(page.getByLabel('Name of exact of TT-PHS2')).toHaveValue('Strips kit exact');
  await expect(page.getByRole('img', { name: /exact keeps \d+ out of phrase/ })).toBeVisible();
  await expect(sentence(page)).toContainText('EUR 90.00 a day. Nothing keeps it off the sheet.');
  // 9: onto the sheet.
  const lines = Number((await put(page).innerText()).replace(/\D/g, ''));
  await put(page).click();
  await expect(sheet(page)).toHaveText(`${lines} lines on the sheet`);
  await expect(page.getByText('new campaigns up to 90.00 a day')).toBeVisible();
  // 10 and 11: sent.
  await page.getByRole('link', { name: 'Check and send' }).click();
  await page.getByRole('button', { name: `Send ${lines} lines to Quayside` }).click();
  await expect(page.getByText(`${lines} of ${lines} applied`)).toBeVisible({ timeout: 30_000 });

  const rows = (await structureOf(stack.quayside)).filter((row) =>
    String(row.campaign ?? '').startsWith('Strips kit'),
  );
  expect(rows.filter(({ entity }) => entity === 'campaign')).toHaveLength(6);
  const { today } = await callQuayside<{ today: string }>(stack.quayside, 'POST', '/clock/advance', {
    days: 14,
  });
  const shown = (await reportText(stack.quayside, 'terms-daily', '2026-11-22', today))
    .split('\n')
    .filter((row) => row.includes('Strips kit'));
  expect(shown.length).toBeGreaterThan(3);
  // What it does is read by the application as that of every campaign.
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/fetch', {});
  await waitForJob(stack.url, jobId);
  const where = encodeURIComponent('{"column":"name","is":"contains","value":"Strips kit"}');
  await page.goto(`${stack.url}/explore?level=campaigns&where=${where}&from=2026-11-22&to=${today}`);
  await expect(page.getByRole('row').filter({ hasText: 'Strips kit exact' }).first()).toBeVisible();
});

test('what is wrong is said where it stands, and nothing goes onto the sheet', async ({ page }) => {
  await begin(page, 'TT-TMP1');
  await page.getByLabel('Add products').fill('NO-SUCH');
  await page.getByLabel('Add products').press('Enter');
  await expect(page.getByText('The account has no product “NO-SUCH”.')).toBeVisible();
  await page
    .getByLabel('Paste keywords')
    .fill(`kraut stomper; bad;key|word\n${'long '.repeat(30)}, Kraut  Stomper`);
  await page.getByRole('button', { name: 'Add 5 keywords' }).click();
  const list = page.getByRole('list', { name: 'Keywords' });
  await expect(list.getByText('It holds characters that a keyword may not have.')).toBeVisible();
  await expect(list.getByText(/characters, 90 are the most/)).toBeVisible();
  await expect(list.getByText('It is in the list already.')).toBeVisible();
  await page.getByRole('button', { name: 'Drop 3 that stay out' }).click();
  await expect(list.getByRole('listitem')).toHaveCount(2);

  await page.getByLabel('Budget of the kit').fill('6');
  await page.getByLabel('Budget of the kit').press('Enter');
  await expect(page.getByText('0.90 is below the least budget of 2.00').first()).toBeVisible();
  await expect(sentence(page)).toContainText('6 problems keep it off the sheet.');
  await expect(put(page)).toBeDisabled();
  await page.getByLabel('Budget of the kit').fill('60');
  await page.getByLabel('Budget of the kit').press('Enter');
  await page.getByLabel('automatic of TT-TMP1', { exact: true }).selectOption('out');
  await page.getByLabel('items of TT-TMP1', { exact: true }).selectOption('empty');
  await expect(sentence(page)).toContainText('5 campaigns');
  await expect(sentence(page)).toContainText('EUR 60.00 a day. Nothing keeps it off the sheet.');
  await page.getByLabel('Name of exact of TT-TMP1').fill('Lids exact');
  await page.getByLabel('Name of exact of TT-TMP1').press('Enter');
  await expect(
    page.getByText('There is a campaign “Lids exact” already: give it another name.'),
  ).toBeVisible();
  await expect(put(page)).toBeDisabled();
});

test('a draft keeps itself: another browser takes it up, and who comes second is told', async ({
  page,
  browser,
}) => {
  await begin(page, 'TT-WGT6');
  await page.getByLabel('Paste keywords').fill('glass weights for jars');
  await page.getByRole('button', { name: 'Add 1 keyword' }).click();
  await expect(page.getByText('Kept', { exact: true })).toBeVisible();
  const other = await (await browser.newContext()).newPage();
  await other.goto(page.url());
  await expect(
    other.getByRole('list', { name: 'Keywords' }).getByText('glass weights for jars'),
  ).toBeVisible();
  await other.getByLabel('Name of the kit').fill('Taken up elsewhere');
  await expect(other.getByText('Kept', { exact: true })).toBeVisible();
  await page.getByLabel('Excluded phrases').fill('canning');
  await expect(page.getByText(/Not kept: Somebody else changed this kit meanwhile/)).toBeVisible();
  await page.getByRole('button', { name: 'Load anew' }).click();
  await expect(page.getByRole('heading', { name: 'Taken up elsewhere' })).toBeVisible();
  await page.getByRole('button', { name: 'All kits' }).click();
  // Opened again it is as it was left.
  await page.getByRole('button', { name: 'Taken up elsewhere', exact: true }).click();
  await page.getByLabel('Excluded phrases').fill('canning');
  await expect(page.getByText('Kept', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'All kits' }).click();
  await page.getByRole('button', { name: 'Taken up elsewhere', exact: true }).click();
  await expect(page.getByLabel('Excluded phrases')).toHaveValue('canning');
  await page.getByLabel('Excluded phrases').fill('pressure');
  await page.getByRole('button', { name: 'All kits' }).click();
  await page.getByRole('button', { name: 'Taken up elsewhere', exact: true }).click();
  await expect(page.getByLabel('Excluded phrases')).toHaveValue('pressure');
  await page.getByRole('button', { name: 'All kits' }).click();
  await page.getByRole('button', { name: 'Remove Taken up elsewhere' }).click();
  await expect(page.getByRole('button', { name: 'Taken up elsewhere', exact: true })).toHaveCount(0);
  await other.close();
});

test('kits of several products are parts of one, undone as one; the bench is accessible', async ({
  page,
}) => {
  await begin(page, 'TT-CRK2');
  await page.getByLabel('Add products').fill('QY4H6T8G tt-kit1');
  await page.getByLabel('Add products').press('Enter');
  await expect(page.getByRole('table', { name: 'Parts for TT-KIT1' })).toBeVisible();
  await expect(page.getByRole('table', { name: 'Parts for TT-CRK5' })).toBeVisible();
  await page.getByRole('button', { name: /^Add \d+ that sold/ }).click();
  await expect(sentence(page)).toContainText('18 campaigns');
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map(({ id, nodes }) => [id, nodes[0]?.html])).toEqual([]);
  await put(page).click();
  await expect(sheet(page)).toHaveText(/\d+ lines on the sheet/);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('five kits from a file, one copied for another product, and a recipe of one’s own', async ({ page }) => {
  await page.goto(`${stack.url}/kits`);
  const rows = ['TT-LID4', 'TT-WGT6', 'TT-CRK2', 'TT-KIT1', 'TT-PHS2'].map((sku) => `${sku},Exact only,20`);
  await page.getByLabel('File of kits').setInputFiles({
    name: 'kits.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(['sku,recipe,budget', ...rows, 'NONE,Exact only,20'].join('\n')),
  });
  const offer = page.getByRole('dialog', { name: '5 kits in this file' });
  await expect(offer.getByText('Row 7, sku: The account has no product “NONE”.')).toBeVisible();
  await offer.getByRole('button', { name: 'Begin 5 kits' }).click();
  await expect(page.getByText('5 kits begun.')).toBeVisible();
  await page.getByRole('button', { name: 'Lids: Exact only', exact: true }).click();
  await expect(sentence(page)).toContainText('1 campaign');
  await expect(page.getByText(/^40 keywords/)).toBeVisible();
  await page.getByRole('button', { name: 'All kits' }).click();
  await page.getByRole('button', { name: 'Copy Lids: Exact only' }).click();
  await page.getByLabel('Add products').fill('TT-TMP1');
  await page.getByLabel('Add products').press('Enter');
  await expect(page.getByLabel('Name of exact of TT-TMP1')).toHaveValue('Tamper exact 02');

  await page.getByRole('button', { name: 'Keep as recipe' }).click();
  await page.getByLabel('Name of the recipe').fill('Only exact, mine');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByLabel('Recipe', { exact: true })).toHaveValue('Only exact, mine');
  const saved = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save as JSON' }).click();
  expect((await saved).suggestedFilename()).toBe('Only exact, mine.json');
  await page.getByLabel('File of a recipe').setInputFiles({
    name: 'broken.json',
    mimeType: 'application/json',
    buffer: Buffer.from('{"name": '),
  });
  await expect(page.getByText(/broken.json holds no recipe/)).toBeVisible();
});
