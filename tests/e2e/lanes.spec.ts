import AxeBuilder from '@axe-core/playwright';
import { readFile } from 'node:fs/promises';
import { expect, test, type Page } from '@playwright/test';
import { startStack, type Stack } from '../support/stack.ts';
import { openSheetOf } from '../support/sheets.ts';

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const sheet = (page: Page) => page.getByTestId('sheet-lines');
const lanes = (page: Page) => page.locator('[data-lane]');
const panel = (page: Page) => page.getByTestId('why');
const openMap = async (page: Page, more = '') => {
  await page.goto(`${stack.url}/lanes${more}`);
  await expect(lanes(page).first()).toBeVisible();
};
const lane = (page: Page, from: string, to: string, kind = 'keyword') =>
  page.getByRole('button', { name: new RegExp(`^Lane for ${kind}s from ${from} to ${to}:`) });

test('the lanes that are read from the account are kept, changed, removed, and taken back', async ({
  page,
}) => {
  await openMap(page);
  await expect(page.getByTestId('lanes-sentence')).toContainText('All research leads somewhere');
  const all = await lanes(page).count();
  expect(all).toBeGreaterThan(25);
  await page.getByRole('button', { name: 'Keep these lanes' }).click();
  await expect(page.getByRole('button', { name: 'Keep these lanes' })).toHaveCount(0);

  await lane(page, 'Lids automatic', 'Lids exact').press('Enter');
  await expect(page.getByTestId('lane-sentence')).toContainText(/orders from \d+ terms/);
  await page.getByLabel('At least').fill('4');
  await page.getByLabel('in the last').fill('30');
  await page.getByLabel('First bid').selectOption('fixed');
  await page.getByLabel('Fixed bid').fill('0.44');
  await page.getByLabel('Blocked in').selectOption('source');
  await page.getByRole('button', { name: 'Save lane' }).click();
  await expect(page.getByText('Lane changed. ctrl z takes it back.')).toBeVisible();
  await page.reload();
  await expect(page.getByLabel('At least')).toHaveValue('4');
  await expect(page.getByLabel('Fixed bid')).toHaveValue('0.44');

  // The round asks for what the lane asks for, and begins with its bid.
  const harvests = async () => {
    const { findings } = (await (await page.request.get(`${stack.url}/api/1/round`)).json()) as {
      findings: {
        proposal: { kind: string; bid: number; firstBid: string; isolateIn: string[] };
        seen: { orders: number };
      }[];
    };
    return findings.filter(({ proposal }) => proposal.kind === 'harvest' && proposal.firstBid === 'fixed');
  };
  const fixed = await harvests();
  expect(fixed.length).toBeGreaterThan(0);
  for (const { proposal, seen } of fixed) {
    expect(proposal.bid).toBe(440_000);
    expect(proposal.isolateIn).toHaveLength(1);
    expect(seen.orders).toBeGreaterThanOrEqual(4);
  }

  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(lane(page, 'Lids automatic', 'Lids exact')).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(lane(page, 'Lids automatic', 'Lids exact')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await harvests()).length).toBe(0);
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: 'Keep these lanes' })).toBeVisible();
});

test('a lane is drawn by dragging; research without one stands out; loops and the impossible are refused', async ({
  page,
}) => {
  await openMap(page, '?sku=TT-LID4');
  await lane(page, 'Lids broad research', 'Lids exact').press('Enter');
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByTestId('lanes-sentence')).toContainText('1 research ad groups lead nowhere');
  const box = async (name: string) =>
    (await page.locator('[data-ad-group]').filter({ hasText: name }).boundingBox())!;
  const from = await box('Lids broad research');
  const to = await box('Lids exact');
  await expect(page.locator('[data-ad-group]').filter({ hasText: 'Lids broad research' })).toContainText(
    'no lane',
  );
  await page.mouse.move(from.x + from.width - 20, from.y + 18);
  await page.mouse.down();
  await page.mouse.move(to.x - 40, to.y + 30, { steps: 4 });
  await page.mouse.move(to.x + 30, to.y + 18, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByRole('heading', { name: 'A new lane' })).toBeVisible();
  await page.getByRole('button', { name: 'Make lane' }).click();
  await expect(lane(page, 'Lids broad research', 'Lids exact')).toBeVisible();

  // Backwards would be a loop.
  await page.getByRole('button', { name: 'New lane' }).click();
  const answer = await page.request.get(`${stack.url}/api/1/lanes`);
  const { lanes: now, adGroups } = (await answer.json()) as {
    lanes: Record<string, unknown>[];
    adGroups: { id: string; name: string }[];
  };
  const id = (name: string) => adGroups.find((one) => one.name === name)!.id;
  const plain = now.map(({ problem: _, flow: __, ...rest }) => rest);
  const put = async (more: object) => {
    const response = await page.request.put(`${stack.url}/api/1/lanes`, {
      data: { lanes: [...plain, { ...plain[0], ...more }] },
      headers: { origin: stack.url },
    });
    return (await response.json()) as { detail: string; field: string };
  };
  const loop = await put({
    source: id('Lids exact'),
    destination: id('Lids broad research'),
    kind: 'keyword',
    matchType: 'exact',
  });
  expect(loop.detail).toBe('It would send terms in a loop: Lids exact → Lids broad research → Lids exact.');
  expect(loop.field).toBe(`lanes.${plain.length}.destination`);
  await panel(page).getByLabel('From').selectOption({ label: 'Lids broad research' });
  await panel(page).getByLabel('To').selectOption({ label: 'Lids items' });
  await page.getByRole('button', { name: 'Make lane' }).click();
  await expect(panel(page).getByRole('alert')).toHaveText(
    'This source has a lane of that kind already. Change that one.',
  );
});

test('lanes are proposed, saved as CSV and loaded again; what is wrong with a row is said', async ({
  page,
}) => {
  await openMap(page);
  await page.getByRole('button', { name: 'Propose lanes' }).click();
  await expect(page.getByRole('dialog')).toContainText('Lanes read from your products and names');
  await page.getByRole('button', { name: 'Cancel' }).click();
  const saved = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Save as CSV' }).click();
  const text = await readFile(await (await saved).path(), 'utf8');
  const rows = text.trim().split('\n');
  expect(rows[0]).toBe(
    'campaign,ad_group,ad_group_id,to_campaign,to_ad_group,to_ad_group_id,kind,match_type,least_orders,least_clicks,goal_share,days,first_bid,fixed_bid,isolate',
  );
  const load = (name: string, content: string) =>
    page
      .getByLabel('File of lanes')
      .setInputFiles({ name, mimeType: 'text/csv', buffer: Buffer.from(content) });
  await load(
    'some.csv',
    [
      'Ad group;To ad group;Least orders;Isolate',
      'Lids automatic;Lids exact;3;source',
      'Lids automatic;Nowhere;1;product',
      'Lids exact;Lids automatic;1;product',
      'Lids phrase research;Lids exact;many;product',
    ].join('\r\n'),
  );
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('3 rows can’t be lanes and are left out');
  await expect(dialog).toContainText('Row 3, to_ad_group: No ad group “Nowhere” is known.');
  await expect(dialog).toContainText(
    'Row 4, to_ad_group: Lids automatic is automatic: it holds no keywords and no items of its own.',
  );
  await expect(dialog).toContainText('Row 5, least_orders: “many” is no number of orders.');
  await expect(dialog.getByRole('button', { name: 'Put these 1 lanes in place' })).toBeVisible();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  await load('lanes.csv', text);
  await expect(dialog).not.toContainText('left out');
  await page.getByRole('button', { name: /^Put these \d+ lanes in place$/ }).click();
  await expect(page.getByText(/\d+ lanes loaded\. ctrl z takes it back\./)).toBeVisible();
  await load('empty.csv', '');
  await expect(page.getByText('There is no lane in this file.')).toBeVisible();
});

test('words: sorted and filtered, their collateral shown, added as negative phrases, marked relevant', async ({
  page,
}) => {
  await page.goto(`${stack.url}/lanes?view=words`);
  const table = page.getByRole('grid', { name: 'Words' });
  await page.getByRole('button', { name: /^A week/ }).click();
  await expect(table.locator('[data-key]').first()).toHaveAttribute('data-key', 'canning');
  await expect(page.getByTestId('words-why')).toContainText(/clicks this season/);
  await expect(page.getByTestId('collateral')).toContainText(/terms, [\d.,]+ of spend/);
  await page.getByLabel('Show').selectOption('proposed');
  await expect.poll(() => table.locator('[data-key]').count()).toBeLessThan(40);
  for (const word of ['canning', 'pressure'])
    await expect(table.locator(`[data-key="${word}"]`)).toBeVisible();

  // What it would block is what Explore finds with these words.
  await page.keyboard.press('j');
  await expect(table.locator('[data-key=pressure]')).toHaveAttribute('data-focus', 'true');
  const terms = await table.locator('[data-key=pressure] [role=gridcell]').nth(2).innerText();
  const spend = (await table.locator('[data-key=pressure] [role=gridcell]').nth(4).innerText()).split(
    '\n',
  )[0]!;
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText(/^\d+ lines on the sheet$/);
  const lines = (
    await openSheetOf<{
      lines: { match_type: string; expression: string; ad_group: string | null; reason: string }[];
    }>(stack.url)
  ).lines;
  for (const line of lines) {
    expect([line.match_type, line.expression, line.ad_group]).toEqual(['negative_phrase', 'pressure', null]);
    expect(line.reason).toContain(`is in ${terms} terms`);
  }
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');

  await page.keyboard.press('r');
  await expect(table.locator('[data-key=pressure]')).toHaveCount(0);
  await page.getByLabel('Show').selectOption('relevant');
  await expect(table.locator('[data-key=pressure]')).toContainText('relevant');
  await page.keyboard.press('r');
  await expect(page.getByText('No words match.')).toBeVisible();

  await page.getByLabel('Show').selectOption('all');
  await page.keyboard.press('/');
  await page.getByLabel('Filter words').fill('pressure cann');
  await expect(table.locator('[data-key="pressure canning"]')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByLabel('Filter words').fill('pressure');
  await expect(table.locator('[data-key]').first()).toHaveAttribute('data-key', 'pressure');
  await table.locator('[data-key=pressure]').click();
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/explore/);
  // Explore counts a term once for every target that caught it: the money is the same.
  await expect(page.getByTestId('explore-sentence')).toContainText(`EUR ${spend}`);
});

test('negatives: what each keeps away, ten thousand pasted with their problems, archived, lists', async ({
  page,
  context,
}) => {
  await page.goto(`${stack.url}/lanes?view=negatives`);
  const table = page.getByRole('grid', { name: 'Negatives' });
  await expect(table.locator('[data-key]').filter({ hasText: 'glass weights' })).toContainText(/\d+ terms/);
  await expect(page.getByTestId('negative-sentence')).toContainText('would flow here again');
  await page.keyboard.press('Delete');
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');

  await page.keyboard.press('n');
  const dialog = page.getByRole('dialog');
  const many = Array.from({ length: 10_000 }, (_, i) => `unwanted ${i}`);
  many.splice(5, 0, '🫙', '!!!', 'x'.repeat(300), 'qy3n8p4c');
  await dialog.getByLabel('Scope').selectOption('ad_group');
  await dialog.getByLabel('Where').selectOption({ label: 'Lids exact' });
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.evaluate((text) => navigator.clipboard.writeText(text), many.join('\n'));
  await dialog.getByRole('textbox').first().focus();
  await page.keyboard.press('Control+v');
  const preview = page.getByTestId('negatives-preview');
  await expect(preview).toContainText('1,000 lines in 1 place. 4 can’t be added:');
  await expect(dialog).toContainText('Line 6, “🫙”: It has no letter or digit.');
  await expect(dialog).toContainText('It has 300 characters, 90 are the most.');
  await expect(dialog).toContainText('It holds at most 1000 negatives: 9001 find no room.');
  await dialog.getByLabel('Scope').selectOption('campaign');
  await dialog.getByLabel('Where').selectOption({ label: 'Lids exact' });
  await expect(preview).toContainText('10,001 lines in 1 place');
  await dialog.getByRole('button', { name: 'Add 10,001 lines to the sheet' }).click();
  await expect(sheet(page)).toHaveText('10,001 lines on the sheet', { timeout: 60_000 });
  // As long as its dialog stands, keys are the dialog's.
  await expect(dialog).toBeHidden({ timeout: 60_000 });
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty', { timeout: 60_000 });

  await page.getByRole('button', { name: 'Lists' }).click();
  await dialog.getByRole('button', { name: 'New list' }).click();
  await dialog.getByLabel('Name').fill('Never ours');
  await page.getByLabel('File of negatives').setInputFiles({
    name: 'negatives.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('match_type,expression\nexact,canning jar\nphrase,pressure cooker\n'),
  });
  await expect(dialog.getByRole('textbox').nth(1)).toHaveValue('exact: canning jar\npressure cooker');
  await dialog.getByLabel('Lids automatic').check();
  await dialog.getByLabel('Lids broad research').check();
  await dialog.getByRole('button', { name: 'Save list' }).click();
  await expect(page.getByTestId('list-sentence')).toHaveText('0 stand in its campaigns, 4 are missing.');
  await dialog.getByRole('button', { name: 'Add 4 missing to the sheet' }).click();
  await expect(page.getByTestId('list-sentence')).toHaveText('4 stand in its campaigns, 0 are missing.');
  const saved = page.waitForEvent('download');
  await dialog.getByRole('link', { name: 'Save as CSV' }).click();
  expect(await readFile(await (await saved).path(), 'utf8')).toContain('negative_exact,canning jar');
  await dialog.getByRole('button', { name: 'Close' }).click();
  await expect(sheet(page)).toHaveText('4 lines on the sheet');
  // Into the list from where negatives are added: it goes to both of its campaigns.
  await page.keyboard.press('n');
  await dialog.getByLabel('Scope').selectOption('list');
  await dialog.getByRole('textbox').first().fill('moonshine');
  await expect(preview).toContainText('2 lines in 2 places');
  await dialog.getByRole('button', { name: 'Add 2 lines to the sheet' }).click();
  await expect(sheet(page)).toHaveText('6 lines on the sheet');
  await expect(dialog).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('4 lines on the sheet');
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('conflicts: repaired through the sheet, put off, brought back', async ({ page }) => {
  await page.goto(`${stack.url}/lanes?view=conflicts`);
  const table = page.getByRole('grid', { name: 'Conflicts' });
  const first = table.locator('[data-key]').first();
  await expect(first).toContainText('glass weights');
  await expect(first).toContainText('A negative blocks an active keyword');
  const sentence = page.getByTestId('conflicts-sentence');
  const before = await sentence.innerText();
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await expect(sentence).toContainText('1 are on the sheet');
  await expect(first).not.toContainText('A negative blocks an active keyword');
  await page.keyboard.press('s');
  await expect(sentence).toContainText('1 put off or skipped');
  await page.keyboard.press('Control+z');
  await expect(sentence).not.toContainText('put off');
  await page.keyboard.press('Control+z');
  await expect(sentence).toHaveText(before);
  await page.getByLabel('Kind of conflict').selectOption('not_isolated');
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: /^Accept [\d,]+ repairs$/ }).click();
  await expect(table).toHaveCount(0);
  const { lines } = await openSheetOf<{
    lines: { entity: string; action: string; conflict: boolean }[];
  }>(stack.url);
  expect(lines.length).toBeGreaterThan(50);
  for (const line of lines)
    expect([line.entity, line.action, line.conflict]).toEqual(['negative', 'create', false]);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('coverage: any term is tried, with its order and reasons; what cannot be a term says so', async ({
  page,
}) => {
  await page.goto(`${stack.url}/lanes?view=coverage`);
  const field = page.getByLabel('Term to try');
  const sentence = page.getByTestId('coverage-sentence');
  const rows = page.getByRole('grid', { name: 'What would catch it' }).locator('[data-key]');
  const attempt = async (term: string) => {
    await field.fill(term);
    await field.press('Enter');
  };
  await attempt('glass weights');
  await expect(sentence).toContainText('“glass weights” would be served by');
  await expect(rows.first()).toContainText('shown');
  await expect(rows.filter({ hasText: 'exact in Weights exact' })).toContainText('blocked');
  await expect(panel(page)).toContainText('negative phrase “glass weights” in Weights exact');
  await expect(panel(page)).toContainText(/words? (is|are) known/);
  const link = page.url();
  await page.goto(`${stack.url}/lanes`);
  await page.goto(link);
  await expect(sentence).toContainText('“glass weights”');

  await attempt('qy3n8p4c');
  await expect(sentence).toContainText('The page QY3N8P4C');
  await attempt('garden hose');
  await expect(sentence).toContainText('is caught by nothing you bid on by words');
  await attempt('!!!');
  await expect(page.getByRole('alert')).toHaveText(
    'It has no letter or digit: no keyword and no negative ever matches it.',
  );
  await attempt('x'.repeat(301));
  await expect(page.getByRole('alert')).toHaveText(
    'The term has 301 characters; 300 are the most that are tried.',
  );
  await attempt('🫙 crock');
  await expect(
    page.getByText('It can’t be a keyword itself: It holds characters that a keyword may not have.'),
  ).toBeVisible();
  await attempt('غطاء crock');
  await expect(sentence).toContainText('غطاء crock');
});

test('new terms: their share of spend and orders; those that stopped; a term leads to its coverage', async ({
  page,
}) => {
  await page.goto(`${stack.url}/lanes?view=new`);
  await expect(page.getByTestId('new-sentence')).toContainText(
    /[\d,]+ terms appeared for the first time: \d+ % of the terms/,
  );
  const fresh = page.getByRole('grid', { name: 'New terms' }).locator('[data-key]');
  const term = (await fresh.first().getAttribute('data-key'))!;
  await page.getByRole('button', { name: /^Clicks/ }).click();
  await expect(page).toHaveURL(/sort=-clicks/);
  await page.getByRole('button', { name: /^Stopped/ }).click();
  await expect(page.getByRole('grid', { name: 'Stopped terms' }).locator(`[data-key="${term}"]`)).toHaveCount(
    0,
  );
  await page.goBack();
  await expect(fresh.first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/view=coverage/);
  await expect(page.getByTestId('coverage-sentence')).toContainText('“');
});

test('a negative of the round stands where it is wanted, or gives way to a lower bid', async ({ page }) => {
  await page.goto(`${stack.url}/round?queue=terms&proposal=negative`);
  const rows = page.locator('[role=row][data-key]');
  await expect(rows.first()).toBeVisible();
  await expect(page.getByTestId('likeness')).toContainText(/known/);
  await expect(panel(page)).toContainText('Milder: lower the bid of');
  await page.keyboard.press('e');
  await page.getByLabel('Way').selectOption({ label: 'phrase in the whole product' });
  await page.getByRole('button', { name: 'Accept', exact: true }).click();
  await expect(sheet(page)).toHaveText(/^[2-9] lines on the sheet$/);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await rows.first().click();
  await expect(panel(page)).toContainText('Milder: lower the bid of');
  await page.keyboard.press('e');
  await page.getByLabel('Way').selectOption('milder');
  await page.getByRole('button', { name: 'Accept', exact: true }).click();
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await page.goto(`${stack.url}/ledger`);
  await expect(page.getByText(/^Instead of a negative/)).toBeVisible();
  await page.getByRole('button', { name: /^Remove .+ from the sheet$/ }).click();
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('a harvest goes onto the sheet and off it as one', async ({ page }) => {
  await page.goto(`${stack.url}/round?queue=terms&proposal=harvest`);
  await expect(page.locator('[role=row][data-key]').first()).toContainText('Harvest');
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText(/^[2-9] lines on the sheet$/);
  await page.goto(`${stack.url}/ledger`);
  const whole = page.getByRole('button', { name: 'Remove all of it' });
  await expect(page.getByRole('gridcell', { name: /^Harvest of “.+” to / })).toBeVisible();
  await whole.click();
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText(/^[2-9] lines on the sheet$/);
  // By the API too: one line of it takes all along.
  const { lines } = await openSheetOf<{
    lines: { line_id: number }[];
  }>(stack.url);
  await page.request.post(`${stack.url}/api/1/sheet/lines`, {
    data: { lineIds: [lines[lines.length - 1]!.line_id] },
    headers: { origin: stack.url },
  });
  await page.reload();
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('two hundred terms are decided in one sitting without the mouse', async ({ page }) => {
  await page.goto(`${stack.url}/round?queue=terms`);
  const focused = page.locator('[role=row][data-focus=true]');
  await expect(focused).toHaveCount(1);
  // What only waits for clicks is skipped among the others, so all that match are counted.
  const matching = page.getByText(/^[\d,]+ match$/);
  const left = async () => Number((await matching.innerText()).replace(/\D/g, ''));
  const all = await left();
  expect(all).toBeGreaterThan(200);
  const decide = async () => {
    const text = await focused.innerText();
    const key = await focused.getAttribute('data-key');
    await page.keyboard.press(/Harvest|Negate/.test(text) ? 'a' : 's');
    await expect(page.locator(`[role=row][data-key="${key!.replaceAll('"', '\\"')}"]`)).toHaveCount(0);
  };
  // Ten by one key each, then by ranges.
  for (let i = 0; i < 10; i++) await decide();
  for (const key of ['x', ...Array.from({ length: 94 }, () => 'j'), 'Shift+X', 'a'])
    await page.keyboard.press(key);
  await expect.poll(left).toBeLessThanOrEqual(all - 60);
  while ((await left()) > all - 200) {
    const now = await left();
    for (const key of ['Escape', 'x', ...Array.from({ length: 60 }, () => 'j'), 'Shift+X', 's'])
      await page.keyboard.press(key);
    await expect.poll(left).toBeLessThan(now);
  }
  expect(await left()).toBeLessThanOrEqual(all - 200);
  await expect(sheet(page)).toHaveText(/lines on the sheet/);
});

test('every part of Lanes is accessible', async ({ page }) => {
  for (const [view, ready] of [
    ['map', '[data-lane]'],
    ['words', '[data-key]'],
    ['negatives', '[data-key]'],
    ['conflicts', '[data-key]'],
    ['coverage&term=fermentation crock', '[data-key]'],
    ['new', '[data-key]'],
  ]) {
    await page.goto(`${stack.url}/lanes?view=${view}`);
    await page.locator(ready!).first().waitFor();
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
      .analyze();
    expect(
      violations.map(({ id, nodes }) => `${view}: ${id}: ${nodes[0]?.html}`),
      view,
    ).toEqual([]);
  }
});
