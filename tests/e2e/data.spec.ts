import { readFile } from 'node:fs/promises';
import { expect, test } from '@playwright/test';
import excel from 'exceljs';
import { startStack, type Stack } from '../support/stack.ts';

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(false);
});
test.afterAll(() => stack.stop());

const file = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) });

test('a file in other words: mapped with samples, asked what cannot be guessed, rejected rows told', async ({
  page,
}) => {
  await page.goto(`${stack.url}/data`);
  const input = page.getByLabel('File to load');
  await input.setInputFiles(
    file(
      'september.csv',
      [
        'Search terms of the shop',
        'Day;Campaign Name;Ad Group Name;What we bid on;Match;Search Term;Impr.;Clicks;Cost;Purchases;Revenue',
        '03/09/2026;Lids;Lids broad;airlock lids;broad;=airlock lid;120;4;2,10;1;18,90',
        '04/09/2026;Lids;Lids broad;airlock lids;broad;jar lid;80;3;1,50;0;0,00',
        '05/09/2026;Lids;Lids broad;airlock lids;broad;bad lid;80;three;1,50;0;0,00',
        'Total;;;;;;280;10;5,10;1;18,90',
      ].join('\n'),
    ),
  );
  const preview = page.getByTestId('preview');
  await expect(preview).toContainText('parted by semicolons');
  await expect(preview).toContainText('1 title row above the header');
  await expect(preview.getByText('Its kind was not recognised')).toBeVisible();
  await preview.getByRole('combobox', { name: 'Kind of file' }).selectOption('terms-daily');
  for (const [header, column] of [
    ['Day', 'date'],
    ['Campaign Name', 'campaign'],
    ['Ad Group Name', 'ad_group'],
    ['What we bid on', 'target'],
    ['Match', 'match_type'],
    ['Search Term', 'term'],
    ['Impr.', 'impressions'],
    ['Clicks', 'clicks'],
    ['Cost', 'spend'],
    ['Purchases', 'orders'],
    ['Revenue', 'sales'],
  ]) {
    await preview.getByRole('combobox', { name: `Column for ${header}` }).selectOption(column!);
  }
  await expect(preview.getByText('Please say how dates are read.')).toBeVisible();
  await expect(preview.getByRole('button', { name: 'Load the file' })).toBeDisabled();
  await preview.getByRole('button', { name: 'Leave it' }).click();
  await input.setInputFiles(
    file(
      'september.csv',
      [
        'Day;Campaign Name;Ad Group Name;Keyword;Match;Search Term;Impr.;Clicks;Cost;Purchases;Revenue',
        '03/09/2026;Lids;Lids broad;airlock lids;broad;=airlock lid;120;4;2,10;1;18,90',
        '04/09/2026;Lids;Lids broad;airlock lids;broad;jar lid;80;3;1,50;0;0,00',
        '05/09/2026;Lids;Lids broad;airlock lids;broad;bad lid;80;three;1,50;0;0,00',
        'Total;;;;;;280;10;5,10;1;18,90',
      ].join('\n'),
    ),
  );
  await expect(preview.getByRole('combobox', { name: 'Kind of file' })).toHaveValue('terms-daily');
  await expect(preview.getByRole('combobox', { name: 'Column for Keyword' })).toHaveValue('target');
  await expect(preview.getByRole('button', { name: 'Load the file' })).toBeDisabled();
  await preview.getByRole('combobox', { name: 'Order of dates' }).selectOption('dmy');
  await preview.getByRole('button', { name: 'Load the file' }).click();

  const result = page.getByTestId('load-result');
  await expect(result).toContainText('2 rows loaded of 4 read; 1 rejected, 1 total left out.');
  await expect(result).toContainText('3 Sep 2026 to 4 Sep 2026');
  await expect(result).toContainText('Row 4, column clicks, “three”: It is not a number.');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    result.getByRole('link', { name: 'Download rejected rows' }).click(),
  ]);
  const text = await (
    await download.createReadStream()
  )
    .toArray()
    .then((parts) => Buffer.concat(parts).toString('utf8'));
  expect(text).toContain('bad lid');

  // Only search terms were told: the season is theirs.
  const days = await page.evaluate(async () =>
    ((await (await fetch('/api/1/season')).json()) as { days: { day: string; clicks: number }[] }).days.map(
      ({ day, clicks }) => [day, clicks],
    ),
  );
  expect(days).toEqual([
    ['2026-09-03', 4],
    ['2026-09-04', 3],
  ]);
});

test('what is no table is said plainly and nothing is loaded', async ({ page }) => {
  await page.goto(`${stack.url}/data`);
  const input = page.getByLabel('File to load');
  await input.setInputFiles(file('empty.csv', ''));
  await expect(page.getByRole('alert')).toHaveText('empty.csv: The file is empty.');
  await input.setInputFiles(file('note.csv', 'dear all\nplease see below\n'));
  await expect(page.getByRole('alert')).toContainText('No table was found');
});

test('structure and targets from files alone: the round judges them', async ({ page }) => {
  const days = Array.from({ length: 40 }, (_, i) =>
    new Date(Date.UTC(2026, 9, 1 + i)).toISOString().slice(0, 10),
  );
  const targets = ['airlock lids', 'jar lids', 'lid set', 'wide lids', 'lid kit', 'fermenting lids'];
  const lines = days.flatMap((day) =>
    targets.map(
      (target, t) =>
        `${day},Lids,Lids,${target},exact,${200 + t},${6 + t},${(3 + t).toFixed(2)},${t === 5 ? 0 : 1},${t === 5 ? 0 : 18.9}`,
    ),
  );
  await page.goto(`${stack.url}/data`);
  const input = page.getByLabel('File to load');
  await input.setInputFiles(
    file(
      'targets.csv',
      `date,campaign,ad_group,target,match_type,impressions,clicks,spend,orders,sales\n${lines.join('\n')}\n`,
    ),
  );
  await page.getByRole('button', { name: 'Load the file' }).click();
  await expect(page.getByTestId('load-result')).toContainText('240 rows loaded of 240 read');
  await input.setInputFiles(
    file(
      'structure.csv',
      `entity,campaign,ad_group,target_kind,match_type,expression,bid,status\n${targets.map((target) => `target,Lids,Lids,keyword,exact,${target},0.80,enabled`).join('\n')}\n`,
    ),
  );
  await page.getByRole('button', { name: 'Load the file' }).click();
  await expect(page.getByTestId('load-result')).toContainText('6 rows loaded');
  await page.goto(`${stack.url}/round?queue=targets`);
  await expect(page.getByRole('row').filter({ hasText: 'fermenting lids' })).toContainText('Cut bid');
});

test('a workbook: sheet by sheet, each as what it is; then everything as one package', async ({ page }) => {
  const book = new excel.Workbook();
  book.addWorksheet('Notes').addRow(['Nothing to load here']);
  const products = book.addWorksheet('Products');
  products.addRow(['SKU', 'Item code', 'Title', 'Price', 'Unit cost']);
  products.addRow(['LID-1', 'QY000001', 'Lid set', 18.9, 4]);
  const hours = book.addWorksheet('Hours');
  hours.addRow(['Day', 'Hour', 'Campaign', 'Impr.', 'Clicks', 'Cost']);
  hours.addRow([new Date('2026-11-03T00:00:00Z'), 17, 'Lids', 90, 4, 1.2]);
  hours.addRow([new Date('2026-11-03T00:00:00Z'), 25, 'Lids', 90, 4, 1.2]);
  await page.goto(`${stack.url}/data`);
  await page.getByLabel('File to load').setInputFiles({
    name: 'account.xlsx',
    mimeType: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    buffer: Buffer.from(await book.xlsx.writeBuffer()),
  });
  const preview = page.getByTestId('preview');
  const sheet = preview.getByRole('combobox', { name: 'Sheet' });
  const kind = preview.getByRole('combobox', { name: 'Kind of file' });
  await expect(sheet).toHaveValue('Products');
  await expect(kind).toHaveValue('products');
  await expect(preview.getByText('Sheets left for later: Hours.')).toBeVisible();
  await sheet.selectOption('Hours');
  await expect(kind).toHaveValue('campaign-hours');
  await preview.getByRole('button', { name: 'Load the file' }).click();
  const result = page.getByTestId('load-result');
  await expect(result).toContainText('1 row loaded of 2 read; 1 rejected');
  await expect(result).toContainText('Row 3, column hour, “25”: Hours go from 0 to 23.');

  const saved = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Export everything' }).click();
  const download = await saved;
  expect(download.suggestedFilename()).toMatch(/^mowing-account-.+\.zip$/);
  await page.getByLabel('File to load').setInputFiles({
    name: 'account.zip',
    mimeType: 'application/zip',
    buffer: await readFile(await download.path()),
  });
  await expect(page.getByTestId('package')).toContainText('structure, products, goals, targets-daily');
  await page.getByRole('button', { name: 'Load the package' }).click();
  await expect(result).toContainText(/rows loaded of [\d,]+ read in \d+ parts; 0 rejected/);
});

test('a summary of a month is said wherever it counts, and where it does not', async ({ page }) => {
  await page.goto(`${stack.url}/data`);
  await page
    .getByLabel('File to load')
    .setInputFiles(
      file(
        'summary.csv',
        [
          'start_date,end_date,campaign,ad_group,target,match_type,impressions,clicks,spend,orders,sales',
          '2026-03-01,2026-03-31,Summed up,Core,lid set,exact,900,60,30.00,3,56.70',
        ].join('\n'),
      ),
    );
  const preview = page.getByTestId('preview');
  await expect(preview).toContainText('They count in windows that hold all of their days.');
  await preview.getByRole('button', { name: 'Load the file' }).click();
  await expect(page.getByTestId('load-result')).toContainText('1 row loaded');
  const explore = (from: string, to: string) =>
    page.goto(`${stack.url}/explore?level=targets&from=${from}&to=${to}`);
  const said = page.getByTestId('rests-on-summary');
  await explore('2026-03-05', '2026-04-04');
  await expect(said).toContainText('A summary of 1 Mar 2026 to 31 Mar 2026 does not count');
  await said.getByRole('button', { name: 'look at all of it' }).click();
  await expect(said).toContainText('Rests on a summary of 1 Mar 2026 to 31 Mar 2026.');
  await expect(page.getByTestId('explore-sentence')).toContainText('30.00');
});
