import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import postgres from 'postgres';
import { callApi } from '../../scripts/lib/processes.ts';
import { openSheetOf } from '../support/sheets.ts';
import { startStack, structureOf, type Stack } from '../support/stack.ts';

/** Where money works: placements looked at, accepted, set by hand, sent and taken back, through the interface. */

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const rows = (page: Page) => page.locator('[role=row][data-key]');
const sheet = (page: Page) => page.getByTestId('sheet-lines');
const panel = (page: Page) => page.getByRole('complementary', { name: 'Why' });
const modifiers = async () =>
  (await structureOf(stack.quayside))
    .filter(({ entity }) => entity === 'placement_modifier')
    .map(({ campaign_id: id, placement, modifier }) => `${id} ${placement} ${modifier}`)
    .sort();

test('a finding is read, accepted by its key, seen as one thing on the sheet, and taken back', async ({
  page,
}) => {
  await page.goto(`${stack.url}/spend?part=where`);
  await expect(page.getByTestId('where-sentence')).toContainText(/\d+ campaigns of \d+ would earn/);
  await expect(panel(page).getByTestId('why-sentence')).toContainText(
    /A click on .+ sells [\d.]+ times the mean/,
  );
  await expect(panel(page).getByTestId('why-working')).toContainText('Factor on');
  const name = await panel(page).getByRole('heading', { level: 2 }).innerText();
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText(/^\d+ lines on the sheet$/);
  await expect(rows(page).filter({ hasText: name }).first()).toContainText('on the sheet');
  await expect(panel(page).getByTestId('why-sentence')).toContainText('It is on the sheet.');
  await page.getByRole('link', { name: 'Check and send' }).click();
  await expect(page.getByRole('gridcell', { name: `Placements of ${name}`, exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Remove all of it' }).click();
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('in Round it is a kind of its own, with its link; sent to the marketplace and reverted there', async ({
  page,
}) => {
  const before = await modifiers();
  await page.goto(`${stack.url}/round?queue=placements`);
  await expect(rows(page).first()).toContainText('Move');
  await expect(rows(page).first()).toContainText('bids');
  await panel(page).getByRole('link', { name: 'Its placements, and how it comes about' }).click();
  await expect(page.getByRole('heading', { name: 'Spend', level: 1 })).toBeVisible();
  await page.goBack();
  await expect(rows(page).first()).toContainText('Move');
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText(/^\d+ lines on the sheet$/);
  const lines = (await sheet(page).innerText()).split(' ')[0]!;
  await page.getByRole('link', { name: 'Check and send' }).click();
  await page.getByRole('button', { name: `Send ${lines} lines to Quayside` }).click();
  await expect(page.getByText(`${lines} of ${lines} applied`).first()).toBeVisible({ timeout: 30_000 });
  expect(await modifiers()).not.toEqual(before);
  await page
    .getByRole('button', { name: /^Revert all/ })
    .first()
    .click();
  await expect(sheet(page)).toHaveText(`${lines} lines on the sheet`);
  await page.getByRole('link', { name: 'Check and send' }).click();
  await page.getByRole('button', { name: `Send ${lines} lines to Quayside` }).click();
  // The bar is empty as soon as the sheet is on its way.
  await expect.poll(modifiers, { timeout: 30_000 }).toEqual(before);
});

test('set by hand: what one click may cost answers, what is hardly meant is asked', async ({ page }) => {
  await page.goto(`${stack.url}/spend?part=where&sort=-spend`);
  await expect(panel(page).getByTestId('why-sentence')).toBeVisible();
  const fields = panel(page).getByRole('textbox', { name: /^Modifier of/ });
  const most = panel(page)
    .getByRole('row')
    .filter({ has: page.getByRole('textbox', { name: /^Modifier of/ }) })
    .first()
    .getByRole('cell')
    .last();
  const now = Number(await most.innerText());
  const before = Number(await fields.first().inputValue());
  await page.keyboard.press('e');
  await expect(fields.first()).toBeFocused();
  await fields.first().fill('150');
  await fields.first().press('Enter');
  await expect(most).toHaveText(((now * 250) / (100 + before)).toFixed(2));
  const put = panel(page).getByRole('button', { name: 'Put on the sheet' });
  await expect(put).toBeDisabled();
  await panel(page).getByRole('checkbox').check();
  await put.click();
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  // The sheet asks once more before it is sent, whatever way a line came onto it.
  const where = page.url();
  await page.getByRole('link', { name: 'Check and send' }).click();
  await expect(page.getByTestId('unusual-clicks')).toContainText(
    /In 1 campaign a click may cost over twice its bid: .+ instead of .+, for a bid of/,
  );
  const send = page.getByRole('button', { name: /^Send 1 line/ });
  await expect(send).toBeDisabled();
  await page.getByRole('checkbox', { name: 'It is meant: send it so' }).check();
  await expect(send).toBeEnabled();
  await page.getByTestId('unusual-clicks').getByRole('link').click();
  await expect(page).toHaveURL(/spend\?part=where&campaign=\d+/);
  await page.goto(where);
  await expect(panel(page).getByTestId('why-sentence')).toBeVisible();
  await page.getByRole('heading', { name: 'Spend', exact: true }).click();
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await expect(fields.first()).toHaveValue(/\d+/);
  await fields.first().fill('700');
  await fields.first().press('Enter');
  await expect(panel(page).getByText(/a modifier lies between 0 % and 600 %/)).toBeVisible();
  await expect(put).toBeDisabled();
});

test('placements side by side: over all, by strategy, by product; one that is best elsewhere comes first', async ({
  page,
}) => {
  await page.goto(`${stack.url}/spend?part=where`);
  await page.getByRole('button', { name: 'All together' }).click();
  const table = page.getByRole('table', { name: 'Placements' });
  await expect(table.getByRole('row')).toHaveCount(5);
  const shares = await table.locator('tbody td:nth-of-type(3)').allInnerTexts();
  const all = shares.reduce((sum, share) => sum + Number(share.replace(/[^\d.]/g, '')), 0);
  expect(Math.abs(all - 100)).toBeLessThan(2);
  await page.getByRole('button', { name: 'By strategy' }).click();
  await expect(table).toContainText('Down only');
  await page.getByRole('button', { name: 'By product' }).click();
  await expect(table.getByRole('rowheader').first()).toContainText('TT-');
  await page.goBack();
  await expect(table).toContainText('Down only');
});

test('nothing there, a wrong address, and the accessibility rules', async ({ page }) => {
  await page.goto(`${stack.url}/spend?part=where&q=no%20such%20campaign`);
  await expect(page.getByText('No campaign is called so.')).toBeVisible();
  await page.goto(`${stack.url}/spend?part=where&view=upside`);
  await expect(page.getByText('There is none called “upside”.')).toBeVisible();
  for (const query of ['?part=where', '?part=where&view=product']) {
    await page.goto(`${stack.url}/spend${query}`);
    await expect(page.locator('[role=grid], table').first()).toBeVisible();
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag22aa'])
      .analyze();
    expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html.slice(0, 160))])).toEqual([]);
  }
});

test('a condition of one’s own: written as a sentence, meets campaigns, is accepted, switched off and taken back', async ({
  page,
}) => {
  await page.goto(`${stack.url}/spend?part=where`);
  await page.getByRole('button', { name: 'Conditions', exact: true }).click();
  await expect(page.getByTestId('conditions-sentence')).toContainText('No condition of your own is kept');
  await page.getByRole('button', { name: 'Add a condition' }).click();
  const first = page.getByRole('region', { name: 'Condition 1' });
  const met = page.locator('[data-met="0"]');
  await expect(met).toHaveText(/meets [1-9]\d*/);
  const before = Number((await met.innerText()).replace('meets ', ''));
  await first.getByRole('textbox', { name: 'Share, per cent' }).fill('130');
  await page.keyboard.press('Enter');
  await expect(met).not.toHaveText(`meets ${before}`);
  const many = Number((await met.innerText()).replace('meets ', ''));
  expect(many).toBeLessThan(before);
  expect(many).toBeGreaterThan(0);
  await expect(page.getByTestId('conditions-sentence')).toContainText(`${many} campaign`);
  await expect(page.getByTestId('why-sentence')).toContainText('Sales per click on top of search is');
  const row = page.locator('[role=row][data-key]').first();
  const [, to] = /→ (\d+) %/.exec(await row.innerText())!;
  await page.getByRole('heading', { name: 'Spend', exact: true }).click();
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await expect(row).toContainText('on the sheet');
  expect((await openSheetOf<{ lines: { new_value: string }[] }>(stack.url)).lines[0]!.new_value).toBe(to);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  // A second one comes after the first, and goes before it by a click.
  await page.getByRole('button', { name: 'Add a condition' }).click();
  const second = page.getByRole('region', { name: 'Condition 2' });
  await expect(second).toBeVisible();
  await second.getByRole('button', { name: 'Earlier' }).click();
  await expect(met).toHaveText(`meets ${before}`);
  await page.getByRole('button', { name: 'Remove condition 1' }).click();
  await expect(second).toHaveCount(0);
  await expect(met).toHaveText(`meets ${many}`);
  await first.getByRole('button', { name: 'Switch off' }).click();
  await expect(page.getByText('No campaign is met.')).toBeVisible();
  // A modifier beyond what the marketplace takes is not kept.
  const most = first.getByRole('textbox', { name: 'Highest modifier' });
  await most.fill('5000');
  await page.keyboard.press('Enter');
  await expect(most).toHaveValue('600');
  await page.getByRole('heading', { name: 'Spend', exact: true }).click();
  for (let step = 0; step < 7; step++) await page.keyboard.press('Control+z');
  await expect(page.getByTestId('conditions-sentence')).toContainText('No condition of your own is kept');
  const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag22aa']).analyze();
  expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html.slice(0, 160))])).toEqual([]);
});

test('strategies against each other; a strategy is changed in a table, sent and taken back', async ({
  page,
}) => {
  await page.goto(`${stack.url}/spend?part=where&view=strategy`);
  const part = page.getByRole('region', { name: 'Strategies against each other' });
  await expect(part).toContainText(
    /Of a unit spent .+ sells \d\.\d\d × what .+ does \(\d\.\d\d to \d\.\d\d\), among \d+ and \d+ campaigns that aim alike/,
  );
  // Three campaigns against twelve: it is told, and nothing is proposed by it.
  await expect(part).toContainText('too few campaigns to propose anything by');
  await expect(part.locator('[data-better]')).toHaveCount(0);
  const strategyOf = async (name: string) =>
    (await structureOf(stack.quayside)).find((row) => row.entity === 'campaign' && row.campaign === name)!
      .strategy;
  const { rows } = await callApi<{ rows: { key: string; values: string[] }[] }>(
    stack.url,
    'POST',
    '/api/1/explore/table',
    {
      level: 'campaigns',
      window: { from: '2026-10-18', to: '2026-11-16' },
      columns: ['name', 'strategy'],
      within: null,
      where: { all: [{ column: 'name', is: 'equals', value: 'Crock 5 exact' }] },
      sort: 'spend',
      descending: true,
      offset: 0,
      limit: 1,
    },
  );
  const [{ key, values }] = rows as [{ key: string; values: string[] }];
  expect(values[1]).toBe(await strategyOf('Crock 5 exact'));
  const to = values[1] === 'down_only' ? 'fixed' : 'down_only';
  await callApi(stack.url, 'POST', '/api/1/explore/edit', {
    level: 'campaigns',
    window: { from: '2026-10-18', to: '2026-11-16' },
    columns: [],
    within: null,
    where: null,
    sort: null,
    descending: false,
    keys: [key],
    edit: { field: 'strategy', to },
  });
  await page.goto(`${stack.url}/ledger`);
  await expect(page.getByRole('combobox', { name: 'New strategy of Crock 5 exact' })).toHaveValue(to);
  await page.getByRole('button', { name: 'Send 1 line to Quayside' }).click();
  await expect.poll(() => strategyOf('Crock 5 exact')).toBe(to);
  await page
    .getByRole('button', { name: /^Take the sheet back|^Revert/ })
    .first()
    .click();
  await page.goto(`${stack.url}/ledger`);
  await page.getByRole('button', { name: 'Send 1 line to Quayside' }).click();
  await expect.poll(() => strategyOf('Crock 5 exact')).toBe(values[1]);
});

test('campaigns that another strategy serves better: all of them set at once, and taken back', async ({
  page,
}) => {
  // The half of the campaigns that sells most of a unit bids down only, the others the same for everybody.
  const sql = postgres(stack.databaseUrl, { max: 1 });
  const stood = await sql<{ campaign_id: string; strategy: string }[]>`
    select campaign_id::text, strategy from campaign where account_id = 1`;
  await sql`
    with sold as (
      select campaign_id, percent_rank() over (order by sum(sales) / sum(spend)) as rank from placement_day
      where account_id = 1 group by 1 having sum(spend) > 0)
    update campaign c set strategy = case when s.rank > 0.5 then 'down_only' else 'fixed' end
    from sold s where c.account_id = 1 and c.campaign_id = s.campaign_id`;
  const told = () => sql`update account set data_version = data_version + 1 where account_id = 1`;
  await told();
  try {
    await page.goto(`${stack.url}/spend?part=where&view=strategy`);
    const found = page.locator('[data-better=fixed]');
    await expect(found).toContainText(/\d+ campaigns under fixed would be served better by/);
    await expect(found).toContainText(/of sales a week more for the same money/);
    const button = found.getByRole('button', { name: /^Set \d+ campaigns to/ });
    const count = Number(/\d+/.exec(await button.innerText())![0]);
    expect(count).toBeGreaterThanOrEqual(6);
    await button.click();
    await expect(sheet(page)).toHaveText(`${count} lines on the sheet`);
    await expect(found).toContainText('They are on the sheet.');
    const { lines } = await openSheetOf<{ lines: { field: string; new_value: string; reason: string }[] }>(
      stack.url,
    );
    expect(lines.map(({ field, new_value: to }) => `${field} ${to}`)).toEqual(
      Array(count).fill('strategy down_only'),
    );
    expect(lines[0]!.reason).toMatch(
      /^Of a unit spent down only sells .+ what fixed does, among .+; once these switch too, about \d\.\d\d ×/,
    );
    await expect(page.getByRole('contentinfo')).toContainText('what they change in money is not forecast');
    await page.keyboard.press('Control+z');
    await expect(sheet(page)).toHaveText('The sheet is empty');
    await expect(button).toBeVisible();
  } finally {
    await sql`
      update campaign c set strategy = s.strategy
      from unnest(${stood.map((row) => row.campaign_id)}::bigint[], ${stood.map((row) => row.strategy)}::text[])
        s (campaign_id, strategy)
      where c.account_id = 1 and c.campaign_id = s.campaign_id`;
    await told();
    await sql.end();
  }
});
