import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { openSheetOf } from '../support/sheets.ts';
import { callQuayside, startStack, structureOf, type Stack } from '../support/stack.ts';

/** Goals, what another would do, methods side by side, ladders, costs and the plan, through the interface. */

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const row = (page: Page, id: string) => page.locator(`[role=row][data-key="${id}"]`);
const panel = (page: Page, title: string) => page.getByRole('complementary', { name: `Goal of ${title}` });
const kept = (page: Page) => expect(page.getByText('Everything is judged anew.').last()).toBeVisible();
const undo = async (page: Page) => {
  await page.getByRole('heading', { name: 'Goals', exact: true }).click();
  await page.keyboard.press('Control+z');
};
const cells = async (page: Page, label: string) =>
  page
    .getByTestId('what-if')
    .getByRole('row')
    .filter({ has: page.getByRole('rowheader', { name: label, exact: true }) })
    .getByRole('cell')
    .allInnerTexts();

test('a goal is dragged and the account answers; kept by one button, taken back by ctrl z', async ({
  page,
}) => {
  await page.goto(`${stack.url}/goals`);
  const slider = page.getByRole('slider', { name: 'What if the ACOS of The account were, per cent' });
  await expect(page.getByTestId('what-if')).toBeVisible();
  const [, before] = await cells(page, 'Cuts');
  await slider.focus();
  for (let press = 0; press < 40; press++) await page.keyboard.press('ArrowLeft');
  const button = page.getByRole('button', { name: /^Keep \d/ });
  const said = /Keep ([\d.]+) %/.exec(await button.innerText())![1]!;
  expect(Number(said)).toBeLessThan(20);
  await expect(page.getByTestId('what-if')).toHaveAttribute('aria-busy', 'false');
  await expect(page.getByTestId('what-if').getByRole('columnheader').last()).toHaveText(`at ${said} %`);
  const [, same, after] = await cells(page, 'Cuts');
  expect(same).toBe(before);
  expect(Number(after)).toBeGreaterThan(Number(before));
  const [now, then, moved] = await cells(page, 'Spend a week');
  const number = (text: string | undefined) => Number(text!.replace(/,/g, ''));
  expect(number(moved)).toBeLessThan(number(then));
  expect(number(now)).toBeGreaterThan(0);
  // Nothing is kept while it is dragged.
  const field = page.getByRole('textbox', { name: 'Target ACOS of The account, per cent' });
  await expect(field).toHaveValue('26');
  await button.click();
  await kept(page);
  await expect(field).toHaveValue(said);
  await page.goto(`${stack.url}/round?queue=targets`);
  await expect(page.getByTestId('why-sentence')).toBeVisible();
  await page.goto(`${stack.url}/goals`);
  await undo(page);
  await expect(field).toHaveValue('26');
});

test('a campaign and an ad group get goals of their own, each value names whose it is', async ({ page }) => {
  await page.goto(`${stack.url}/goals`);
  const choose = async (text: string, option: RegExp) => {
    await page.getByPlaceholder('Goal for a campaign or an ad group').fill(text);
    await page.getByRole('option', { name: option }).first().click();
  };
  await choose('weights exact', /campaign$/);
  await page.getByRole('textbox', { name: 'Target ACOS of Weights exact, per cent' }).fill('31');
  await page.keyboard.press('Enter');
  await kept(page);
  await choose('weights exact', /ad group in Weights exact/);
  const group = page.locator('[role=row][data-key^="ad_group:"]');
  await expect(group).toContainText('of Weights exact');
  await page.getByRole('combobox', { name: 'Steps of Weights exact' }).last().selectOption('careful');
  await expect(group).toContainText('× 1.4 up');
  await page.reload();
  await expect(group).toContainText('of Weights exact');
  await expect(page.getByTestId('goals-sentence')).toContainText('6 overrides');
  await undo(page);
  await expect(group).toHaveCount(0);
  await undo(page);
  await expect(page.getByTestId('goals-sentence')).toContainText('4 overrides');
});

test('a margin as the goal, and most profit', async ({ page }) => {
  await page.goto(`${stack.url}/goals?scope=product:TT-TMP1`);
  const aside = panel(page, 'TT-TMP1');
  await aside.getByRole('combobox', { name: 'Objective of TT-TMP1' }).selectOption('margin');
  await kept(page);
  await aside.getByRole('textbox', { name: 'Target margin of TT-TMP1, per cent' }).fill('15');
  await page.keyboard.press('Enter');
  await expect(aside).toContainText('An ACOS of 23 %, which leaves 15 %.');
  await expect(row(page, 'product:TT-TMP1')).toContainText('leaves 15 % after ads');
  await aside.getByRole('textbox', { name: 'Target margin of TT-TMP1, per cent' }).fill('60');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/60 % after them leave nothing to advertise with/)).toBeVisible();
  await aside.getByRole('combobox', { name: 'Objective of TT-TMP1' }).selectOption('profit');
  await expect(aside).toContainText('The last click may cost what it earns: 38 %');
  await aside.getByRole('button', { name: 'Remove the override of TT-TMP1' }).click();
  await expect(row(page, 'product:TT-TMP1')).toContainText('the account’s');
});

test('bands: the ladder is moved by keys and typed, says what is wrong, and runs in Round', async ({
  page,
}) => {
  await page.goto(`${stack.url}/goals?scope=product:TT-LID4`);
  await page.getByRole('combobox', { name: 'Method of TT-LID4' }).selectOption('bands');
  await kept(page);
  const aside = panel(page, 'TT-LID4');
  // One step up is 10 %: every row far under its goal is raised by it.
  await aside.getByRole('slider', { name: /^Step 1: from 0 × the goal \+9/ }).focus();
  await page.keyboard.press('ArrowUp');
  await expect(aside.getByRole('slider', { name: /^Step 1: from 0 × the goal \+10 %/ })).toBeVisible();
  await aside.getByRole('textbox', { name: 'Step 3 from how many times the goal' }).fill('0.5');
  await page.keyboard.press('Enter');
  await expect(aside.getByRole('alert')).toContainText('Step 3 begins at 0.5 times the goal');
  await aside.getByRole('button', { name: 'As it was' }).click();
  await aside.getByRole('textbox', { name: 'Step 2 from how many times the goal' }).fill('0.9');
  await page.keyboard.press('Enter');
  await expect(aside.getByRole('slider', { name: /^Step 2: from 0.9 × the goal nothing/ })).toBeVisible();
  await page.goto(`${stack.url}/round?queue=targets&filter=Lids%20exact`);
  await expect(page.locator('[role=row][data-key]').first()).toBeVisible();
  await expect
    .poll(async () => {
      for (let down = 0; down < 12; down++) {
        const sentence = await page.getByTestId('why-sentence').innerText();
        if (/the band 0 to 0.9 ×: [\d.]+ \+ 10 %/.test(sentence)) return true;
        await page.keyboard.press('j');
      }
      return false;
    })
    .toBe(true);
  await page.goto(`${stack.url}/goals?scope=product:TT-LID4`);
  await page.getByRole('combobox', { name: 'Method of TT-LID4' }).selectOption('');
  await expect(aside.getByRole('slider', { name: /^Step 1/ })).toHaveCount(0);
});

test('methods stand side by side: found, sorted, opened into the workings of one target', async ({
  page,
}) => {
  await page.goto(`${stack.url}/goals?view=methods`);
  const totals = page.getByTestId('method-totals');
  for (const name of ['evidence', 'each at its goal', 'bands', 'revenue per click'])
    await expect(totals.getByRole('rowheader', { name, exact: true })).toBeVisible();
  const list = page.getByRole('grid', { name: 'Methods side by side' });
  const first = list.locator('[role=row][data-key]').first();
  await expect(first).toBeVisible();
  await page.keyboard.press('j');
  const workings = page.getByRole('complementary', { name: /^Workings of/ });
  await expect(workings).toContainText('evidence, its own method');
  await expect(workings).toContainText(/÷ [\d,]+ clicks × \d+ %|too few clicks|without an order/);
  await page.getByRole('searchbox', { name: 'Find a target or an ad group' }).fill('kraut');
  await expect(page).toHaveURL(/find=kraut/);
  await expect(list.locator('[role=row][data-key]').first()).toContainText(/kraut/i);
  await list.getByRole('columnheader', { name: 'Spend' }).getByRole('button').first().click();
  await expect(page).toHaveURL(/sort=spend/);
});

test('costs are typed and the break-even answers; a plan stands beside what came', async ({ page }) => {
  await page.goto(`${stack.url}/goals?scope=product:TT-TMP1`);
  const aside = panel(page, 'TT-TMP1');
  const said = aside.getByTestId('break-even');
  const before = await said.innerText();
  await aside.getByRole('textbox', { name: 'Unit cost of TT-TMP1' }).fill('30');
  await page.keyboard.press('Enter');
  await expect(said).toContainText(/Every order loses [\d.]+ before any advertising/);
  await undo(page);
  await expect(said).toHaveText(before);
  await aside.getByRole('textbox', { name: 'CPC of TT-TMP1 to reckon with' }).fill('0.50');
  await page.keyboard.press('Enter');
  // 14.20 a piece of which 5.43 are left: a little under eleven clicks at 0.50.
  await expect(said).toContainText('10.9 clicks');

  await page.goto(`${stack.url}/goals?view=plan`);
  const field = page.getByRole('textbox', { name: 'Spend planned for November 2026', exact: true });
  await field.fill('9000');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('plan-sentence')).toContainText(/spend [\d,.]+ of 9,000.00, \d+ %/);
  await undo(page);
  await expect(field).toHaveValue('');
});

test('goals come from a file with its problems by row, and go out to one', async ({ page }) => {
  await page.goto(`${stack.url}/goals`);
  await page.getByRole('link', { name: 'Load goals or costs from a file' }).click();
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles({
      name: 'goals.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(
        'scope,name,target_acos,method\ncampaign,Tamper exact,19%,bands\ncampaign,Nowhere,19%,\nproduct,TT-PHS2,95%,\n',
      ),
    });
  const preview = page.getByTestId('preview');
  await preview.getByRole('button', { name: 'Load the file' }).click();
  await expect(page.getByText('There is no campaign “Nowhere” here.')).toBeVisible();
  await expect(page.getByText(/95 % lies above the break-even of TT-PHS2/)).toBeVisible();
  await page.goto(`${stack.url}/goals`);
  await expect(page.getByRole('textbox', { name: 'Target ACOS of Tamper exact, per cent' })).toHaveValue(
    '19',
  );
  // The whole file is taken back by one press.
  await page.goto(`${stack.url}/data`);
  await page.getByRole('button', { name: 'Take back goals.csv' }).click();
  await expect(page.getByText('1 goal is as before.')).toBeVisible();
  await expect(page.getByRole('cell', { name: 'taken back' })).toBeVisible();
  await page.goto(`${stack.url}/goals`);
  await expect(page.getByRole('textbox', { name: 'Target ACOS of The account, per cent' })).toHaveValue('26');
  await expect(page.getByRole('textbox', { name: 'Target ACOS of Tamper exact, per cent' })).toBeHidden();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Save goals' }).click();
  expect((await download).suggestedFilename()).toBe('goals.csv');
});

test('the parts of Goals pass the accessibility rules', async ({ page }) => {
  const paths = ['?scope=product:TT-LID4', '?view=methods', '?view=idle', '?view=plan'].map(
    (query) => `/goals${query}`,
  );
  for (const path of [...paths, '/ledger?sheet=outside']) {
    await page.goto(`${stack.url}${path}`);
    await expect(page.getByRole('heading', { level: 1 }).first()).toBeVisible();
    await expect(page.locator('[role=grid], table, nav[aria-label=Sheets]').first()).toBeVisible();
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag22aa'])
      .analyze();
    expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html.slice(0, 160))])).toEqual([]);
  }
});

test('what sold nothing is rested in two actions, cut, negated, and taken back', async ({ page }) => {
  await page.goto(`${stack.url}/goals?view=idle&span=60`);
  const list = page.getByRole('grid', { name: 'Without orders' });
  await expect(list.locator('[role=row][data-key]').first()).toBeVisible();
  const said = await page.getByTestId('idle-sentence').innerText();
  const targets = Number(/^([\d,]+) targets?/.exec(said)![1]!.replace(/,/g, ''));
  // All of them by two actions.
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: `Rest ${targets.toLocaleString('en')}`, exact: true }).click();
  const sheet = page.getByTestId('sheet-lines');
  await expect(sheet).toHaveText(/^[\d,]+ lines on the sheet$/);
  const lines = Number((await sheet.innerText()).replace(/\D/g, ''));
  // Whatever stands at its floor already rests.
  expect(lines).toBeLessThanOrEqual(targets);
  expect(lines).toBeGreaterThan(targets / 2);
  await page.keyboard.press('Control+z');
  await expect(page.getByText('The sheet is empty')).toBeVisible();

  // One by its key: cut by a fifth.
  await page.getByRole('spinbutton', { name: 'Share of the cut, per cent' }).fill('20');
  await page.getByRole('heading', { name: 'Goals', exact: true }).click();
  const before = Number(await list.locator('[role=row].focus [role=gridcell]').nth(5).innerText());
  await page.keyboard.press('c');
  await expect(sheet).toHaveText('1 line on the sheet');
  const { lines: made } = await openSheetOf(stack.url);
  expect(Number(made[0]!.new_value) / 1e6).toBeCloseTo(before * 0.8, 1);
  await page.keyboard.press('Control+z');

  await page.getByRole('button', { name: 'Terms', exact: true }).click();
  await page.getByRole('searchbox', { name: 'Find by name' }).fill('canning');
  await expect(list.locator('[role=row][data-key]').first()).toContainText('canning');
  await page.getByRole('heading', { name: 'Goals', exact: true }).click();
  await page.keyboard.press('n');
  await expect(sheet).toHaveText('1 line on the sheet');
  expect((await openSheetOf(stack.url)).lines[0]).toMatchObject({ entity: 'negative' });
  await page.keyboard.press('Control+z');
  await expect(page.getByText('The sheet is empty')).toBeVisible();
});

test('a loss is tolerated with its reason, told in Round and Goals, and ended again', async ({ page }) => {
  await page.goto(`${stack.url}/goals?view=idle`);
  const list = page.getByRole('grid', { name: 'Without orders' });
  const name = await list.locator('[role=row].focus [role=gridcell]').nth(1).locator('b').innerText();
  await page.keyboard.press('t');
  const form = page.getByRole('form', { name: 'Tolerate' });
  await expect(form.getByRole('button', { name: 'Tolerate' })).toBeDisabled();
  await form.getByRole('textbox', { name: 'Why it is tolerated' }).fill('to hold its rank');
  await form.getByRole('textbox', { name: 'Tolerated a week' }).fill('40');
  await form.getByRole('button', { name: 'Tolerate' }).click();
  await expect(list.locator('[role=row].focus')).toContainText('tolerated');
  // What is tolerated already keeps its amount.
  await page.keyboard.press('t');
  await expect(form).toBeHidden();
  await page.goto(`${stack.url}/goals?view=tolerated`);
  const row = page.getByRole('grid', { name: 'Tolerated' }).locator('[role=row][data-key]');
  await expect(row).toHaveCount(1);
  await expect(row).toContainText(name);
  await expect(row).toContainText('to hold its rank');
  await expect(row).toContainText('40.00');
  await page.goto(`${stack.url}/round?queue=targets`);
  await expect(page.getByTestId('round-sentence')).toContainText(/1 loss of [\d.]+ a week is tolerated/);
  await page.goto(`${stack.url}/goals?view=tolerated`);
  await page.getByRole('button', { name: 'Tolerate no longer' }).click();
  await expect(page.getByText('Nothing is tolerated.')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(row).toHaveCount(1);
  await page.keyboard.press('Control+z');
  await expect(page.getByText('Nothing is tolerated.')).toBeVisible();
});

test('a loss is tolerated straight from its finding in Round, and taken back', async ({ page }) => {
  await page.goto(`${stack.url}/round?queue=targets&proposal=cut`);
  await expect(page.getByTestId('why-sentence')).toBeVisible();
  const focus = page.locator('[role=row].focus');
  const key = await focus.getAttribute('data-key');
  await page.keyboard.press('t');
  const form = page.getByRole('form', { name: 'Tolerate' });
  await form.getByRole('textbox', { name: 'Why it is tolerated' }).fill('a launch');
  await form.getByRole('textbox', { name: 'Why it is tolerated' }).press('Enter');
  await expect(page.getByText('1 loss tolerated. ctrl z takes it back.')).toBeVisible();
  await expect(page.locator(`[role=row][data-key="${key}"]`)).toHaveCount(0);
  await expect(form).toBeHidden();
  await page.keyboard.press('Control+z');
  await expect(page.locator(`[role=row][data-key="${key}"]`)).toHaveCount(1);
});

test('a bid that somebody changed at the marketplace stands in the ledger as that', async ({ page }) => {
  await page.goto(`${stack.url}/ledger?sheet=outside`);
  await expect(page.getByTestId('outside-sentence')).toContainText('Nothing was changed');
  const targets = (await structureOf(stack.quayside)).filter(
    ({ entity, status, campaign }) =>
      entity === 'target' && status === 'enabled' && campaign === 'Lids exact',
  );
  const { target_id: id, expression, bid } = targets[0]!;
  await callQuayside(stack.quayside, 'POST', '/changes', {
    idempotency_key: 'changed by hand elsewhere',
    lines: [
      {
        line_id: '1',
        action: 'update',
        entity: 'target',
        id,
        field: 'bid',
        new_value: (Number(bid) + 0.11).toFixed(2),
      },
    ],
  });
  await callQuayside(stack.quayside, 'POST', '/clock/advance', { days: 1 });
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/fetch', {});
  await waitForJob(stack.url, jobId);
  await page.reload();
  await expect(page.getByTestId('outside-sentence')).toContainText('1 change at the marketplace');
  const row = page.getByRole('grid', { name: 'Changed outside' }).locator('[role=row][data-key]');
  await expect(row).toContainText(String(expression));
  await expect(row).toContainText('Bid of exact keyword');
  await expect(row).toContainText((Number(bid) + 0.11).toFixed(2));
});

test('a share is set aside to learn: proposed, sent, running, and over after three weeks with what it taught', async ({
  page,
}) => {
  test.setTimeout(240_000);
  await page.goto(`${stack.url}/goals?view=testing`);
  const share = page.getByRole('textbox', { name: 'Share of spend for tests' });
  const said = page.getByTestId('testing-sentence');
  await expect(said).toContainText('Nothing is set aside to learn');
  await share.fill('90');
  await share.press('Enter');
  await expect(page.getByText(/At most 50 % of spend can be set aside/)).toBeVisible();
  await share.fill('3');
  await share.press('Enter');
  await expect(said).toContainText(/3 % of spend, [\d,.]+ a week, is set aside to learn\. No test runs/);
  await undo(page);
  await expect(said).toContainText('Nothing is set aside');
  await share.fill('3');
  await share.press('Enter');
  await page.getByRole('link', { name: 'What is proposed' }).click();
  const queue = page.locator('[role=row][data-key]');
  await expect(queue.first()).toContainText(/Test [\d.]+ → [\d.]+/);
  await expect(page.getByTestId('why-sentence')).toContainText(/^Try it at .* for 14 days, to know\. /);
  await expect(page.getByTestId('why-working')).toContainText('Knowing');
  await page.keyboard.press('Control+a');
  await page.keyboard.press('a');
  await expect(page.getByTestId('sheet-lines')).toHaveText(/^\d+ lines? on the sheet$/);
  const { lines } = await openSheetOf(stack.url);
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/sheet/send', {
    clicksMeant: true,
  });
  await waitForJob(stack.url, jobId);

  const weekPasses = async () => {
    await callQuayside(stack.quayside, 'POST', '/clock/advance', { days: 7 });
    const { jobId: fetching } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/fetch', {});
    await waitForJob(stack.url, fetching);
    await page.goto(`${stack.url}/goals?view=testing`);
  };
  const tests = page.getByRole('grid', { name: 'Tests' }).locator('[role=row][data-key]');
  await weekPasses();
  await expect(said).toContainText(new RegExp(`${lines.length} tests? runs?, taking [\\d.]+ of it`));
  await expect(tests.first()).toContainText('day 7 of 14');
  // None of them is proposed anew, and none may be cut meanwhile.
  const tried = new Set(lines.map(({ finding_key: key }) => key));
  const { findings } = await callApi<{
    findings: { key: string; proposal: { kind: string; isTest?: true; held?: { by: string } } }[];
  }>(stack.url, 'GET', '/api/1/round');
  for (const { key, proposal } of findings.filter(({ key }) => tried.has(key)))
    expect([key, proposal.kind, proposal.held?.by]).toEqual([key, 'wait', 'test']);
  await weekPasses();
  await expect(tests.first()).toContainText('day 14 of 14');
  await weekPasses();
  await expect(said).toContainText(new RegExp(`${lines.length} tests? over`));
  await expect(said).toContainText('No test runs');
  for (const row of await tests.all())
    await expect(row).toContainText(/worth more|worth less|as believed|nothing: no click came/);
});
