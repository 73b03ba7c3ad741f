import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { pngOf } from '../support/pictures.ts';
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
/** What runs already is left alone: everything is made anew. */
const anew = (page: Page) => page.getByLabel(/complete what runs already/).uncheck();
const put = (page: Page) => page.getByRole('button', { name: /lines? onto the sheet$/ });
/** Lines of the plan, once it is worked out: until then the button cannot be pressed. */
const plannedLines = async (page: Page) => {
  await expect(put(page)).toBeEnabled();
  return Number((await put(page).innerText()).replace(/\D/g, ''));
};

test('a full set for a product in twelve actions: planned, sent, seen at the marketplace, and shown', async ({
  page,
}) => {
  // Actions 1 to 3: new, which product, Enter.
  await begin(page, 'TT-PHS2');
  await expect(page.getByLabel('Code of TT-PHS2 in names')).toHaveValue(/\w/);
  // 4 to 6: what goes in.
  await page.getByRole('button', { name: /^Add \d+ that sold/ }).click();
  await page.getByRole('button', { name: /^Add \d+ suggested/ }).click();
  await page.getByRole('button', { name: /that are dearer or worse rated/ }).click();
  // 7 to 9: a set of its own beside what runs, under names of its own.
  await anew(page);
  await page.getByLabel('Code of TT-PHS2 in names').fill('Strips kit');
  await page.getByLabel('Budget of the kit').fill('90');
  await page.getByLabel('Budget of the kit').press('Enter');
  await expect(page.getByLabel('Name of exact of TT-PHS2')).toHaveValue('Strips kit exact');
  await expect(page.getByRole('img', { name: /exact keeps \d+ out of phrase/ })).toBeVisible();
  await expect(sentence(page)).toContainText('EUR 90.00 a day. Nothing keeps it off the sheet.');
  // 10: onto the sheet.
  const lines = await plannedLines(page);
  await put(page).click();
  await expect(sheet(page)).toHaveText(`${lines} lines on the sheet`);
  await expect(page.getByText('new campaigns up to 90.00 a day')).toBeVisible();
  // 11 and 12: sent.
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
  await anew(page);
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
  await anew(page);
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
  await expect(sentence(page)).toContainText('0 campaigns beside 1 that stands');
  await expect(page.getByText(/^40 keywords/)).toBeVisible();
  await anew(page);
  await expect(sentence(page)).toContainText('1 campaign,');
  await expect(page.getByText('Kept', { exact: true })).toBeVisible();
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

test('a broken set is completed: what stands is recognised, corrected, filled; the whole set then stays', async ({
  page,
}) => {
  await begin(page, 'TT-WGT6');
  const table = page.getByRole('table', { name: 'Parts for TT-WGT6' });
  await expect(sentence(page)).toContainText(/\d campaigns? beside \d that stand/);
  await expect(page.getByLabel('What is exact of TT-WGT6')).toHaveValue(/\d+/);
  await expect(table.getByText('stays').first()).toBeVisible();
  // A guess that is wrong is corrected, and taken back.
  const known = await page.getByLabel('What is exact of TT-WGT6').inputValue();
  await page.getByLabel('What is exact of TT-WGT6').selectOption('');
  await expect(page.getByLabel('Name of exact of TT-WGT6')).toBeVisible();
  await page.getByLabel('What is exact of TT-WGT6').selectOption(known);
  await page.getByLabel('Paste keywords').fill('heavy stones for large crocks');
  await page.getByRole('button', { name: 'Add 1 keyword' }).click();
  await expect(table.getByText('gets more').first()).toBeVisible();
  const lines = await plannedLines(page);
  await put(page).click();
  await expect(sheet(page)).toHaveText(`${lines} lines on the sheet`);
  await page.getByRole('link', { name: 'Check and send' }).click();
  await page.getByRole('button', { name: `Send ${lines} lines to Quayside` }).click();
  await expect(page.getByText(`${lines} of ${lines} applied`)).toBeVisible({ timeout: 30_000 });
  const rows = await structureOf(stack.quayside);
  const own = rows.filter(({ expression }) => expression === 'heavy stones for large crocks');
  expect(own.filter(({ campaign }) => campaign === 'Weights exact').map(({ entity }) => entity)).toEqual([
    'target',
  ]);
  expect(own.filter(({ entity }) => entity === 'negative').length).toBeGreaterThan(1);
  await page.goto(`${stack.url}/kits`);
  await page.getByRole('button', { name: 'Weights: Full set', exact: true }).click();
  await expect(sentence(page)).toContainText('Everything stands as it would be made.');
  await expect(put(page)).toBeDisabled();
});

test('a category is refreshed after its price moved: narrowed anew, with the bid that it had', async ({
  page,
}) => {
  const only = async () => {
    await page.getByRole('button', { name: 'Edit parts' }).click();
    for (const part of ['automatic', 'broad', 'phrase', 'exact', 'items'])
      await page.getByRole('button', { name: `Remove ${part}`, exact: true }).click();
    await page.getByRole('button', { name: 'Close parts' }).first().click();
  };
  const sendAll = async () => {
    await put(page).click();
    await expect(sheet(page)).toHaveText(/\d+ lines on the sheet/);
    const lines = (await sheet(page).innerText()).split(' ')[0]!;
    await page.getByRole('link', { name: 'Check and send' }).click();
    await page.getByRole('button', { name: /^Send \d+ lines to Quayside/ }).click();
    await expect(page.getByText(`${lines} of ${lines} applied`).first()).toBeVisible({ timeout: 30_000 });
  };
  await begin(page, 'TT-CRK5');
  await only();
  await page.getByLabel('Name of category of TT-CRK5').fill('Crock 5 pages');
  await page.getByLabel('Name of category of TT-CRK5').press('Enter');
  await page.getByLabel('What is in category of TT-CRK5').click();
  await page.getByLabel('Bid of all of category of TT-CRK5').fill('0.77');
  await page.getByLabel('Bid of all of category of TT-CRK5').press('Enter');
  await sendAll();

  // The price goes up by a fifth, as a file of products tells.
  const { products } = await callApi<{
    products: { sku: string; itemCode: string; title: string; price: number }[];
  }>(stack.url, 'GET', '/api/1/kits/desk');
  const { itemCode, title, price } = products.find(({ sku }) => sku === 'TT-CRK5')!;
  const dearer = ((price / 1e6) * 1.2).toFixed(2);
  const text = `sku,item_code,title,price\nTT-CRK5,${itemCode},"${title}",${dearer}\n`;
  const sent = await fetch(`${stack.url}/api/1/files?name=products.csv`, { method: 'POST', body: text });
  const { uploadId } = (await sent.json()) as { uploadId: string };
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/imports', {
    uploadId,
    kind: 'products',
  });
  await waitForJob(stack.url, jobId);

  await begin(page, 'TT-CRK5');
  await only();
  await expect(page.getByText(`Our price is ${dearer}, it begins at`)).toBeVisible();
  await page.getByLabel('Refresh category of TT-CRK5').check();
  await expect(sentence(page)).toContainText('1 archived');
  await page.getByLabel('What is in category of TT-CRK5').click();
  await expect(page.getByText(/had it\.$/)).toBeVisible();
  await sendAll();
  const targets = (await structureOf(stack.quayside)).filter(
    (row) => row.entity === 'target' && row.campaign === 'Crock 5 pages',
  );
  expect(targets.map(({ status, bid }) => [status, bid]).sort()).toEqual([
    ['archived', 0.77],
    ['enabled', 0.77],
  ]);
  expect(targets.find(({ status }) => status === 'enabled')!.expression).toContain(`price ${dearer}-`);
});

test('pages are chosen from the catalogue with the reason; categories, pictures and sharing are set', async ({
  page,
}) => {
  await begin(page, 'TT-KMB4');
  await page.getByRole('button', { name: 'Choose from the catalogue' }).click();
  const pages = page.getByRole('list', { name: 'Pages' });
  await expect(pages.getByText(/% dearer than ours/).first()).toBeVisible();
  await pages.getByRole('checkbox').first().check();
  await pages.getByRole('checkbox').nth(1).check();
  await page.getByRole('button', { name: 'Add 2 pages' }).click();
  await expect(page.getByLabel('Item codes')).toHaveValue(/^QY\w{6}\nQY\w{6}$/);
  await page.getByLabel('rated worse').check();
  await expect(pages.getByText(/rated \d\.\d against/).first()).toBeVisible();
  await page.getByLabel('Search the catalogue').fill('no such thing');
  await expect(page.getByText('No page is like that: ask for less.')).toBeVisible();

  await page.getByLabel('Category', { exact: true }).selectOption({ index: 1 });
  await page.getByRole('button', { name: 'Add category' }).click();
  await expect(page.getByRole('button', { name: /^Remove category/ })).toHaveCount(1);
  await page.getByLabel('by rating').uncheck();

  const picture = (name: string, buffer: Buffer) => ({ name, mimeType: 'image/png', buffer });
  await page
    .getByLabel('Files of pictures')
    .setInputFiles([
      picture('front.png', pngOf(800, 800, [30, 90, 74])),
      picture('small.png', pngOf(320, 200, [30, 90, 74])),
    ]);
  await expect(
    page.getByText('small.png: it has 320 x 200 pixels; exactly 800 x 800 are needed.'),
  ).toBeVisible();
  await page.getByLabel('Titles').fill('With a tap\nFour litres');
  const shown = page.getByRole('list', { name: 'Pictures with titles' });
  await expect(shown.getByRole('img', { name: 'front.png' })).toHaveCount(2);
  await page.getByLabel('Show front.png with Four litres').uncheck();
  await page.getByLabel('Show front.png with With a tap').uncheck();
  await expect(
    page.getByText('Every picture is left out with every title: nothing could be shown.'),
  ).toBeVisible();
  await page.getByLabel('Show front.png with With a tap').check();

  await page.getByLabel('Add products').fill('TT-CRK5');
  await page.getByLabel('Add products').press('Enter');
  await page.getByLabel('Who shares campaigns').selectOption('all');
  await expect(page.getByText(/These products earn unequal profit per order/)).toBeVisible();
  await page.getByLabel('Who shares campaigns').selectOption('alike');
  await expect(page.getByText(/These products earn unequal profit per order/)).toHaveCount(0);
  await page.getByLabel('Kind of budget').selectOption('lifetime');
  await expect(page.getByText('A budget for all days together needs an end date.').first()).toBeVisible();
});
