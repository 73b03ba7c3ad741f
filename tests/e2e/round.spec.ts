import AxeBuilder from '@axe-core/playwright';
import { expect, test, type APIResponse, type Page } from '@playwright/test';
import { startStack, type Stack } from '../support/stack.ts';
import { openSheetOf } from '../support/sheets.ts';

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const rows = (page: Page) => page.locator('[role=row][data-key]');
const sheet = (page: Page) => page.getByTestId('sheet-lines');
const open = async (page: Page, path = '/round?queue=terms') => {
  await page.goto(`${stack.url}${path}`);
  await expect(rows(page).first()).toBeVisible();
};
const amount = async (page: Page) =>
  Number((await page.getByText(/^[\d,]+ match$/).innerText()).replace(/\D/g, ''));

test('moving, marking, ranges, undo', async ({ page }) => {
  await open(page, '/round?queue=targets');
  const all = await amount(page);
  await page.keyboard.press('j');
  await page.keyboard.press('x');
  await page.keyboard.press('j');
  await page.keyboard.press('j');
  await page.keyboard.press('Shift+X');
  await expect(page.getByRole('button', { name: 'Accept 3 marked' })).toBeVisible();
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText('3 lines on the sheet');
  await expect.poll(() => amount(page)).toBe(all - 3);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await expect.poll(() => amount(page)).toBe(all);
});

test('all that match: filtered, marked and accepted in one go, and taken back', async ({ page }) => {
  await open(page, '/round?queue=targets');
  const all = await amount(page);
  await page.getByRole('combobox', { name: 'proposal' }).selectOption({ label: 'Cut bid' });
  await expect(page).toHaveURL(/proposal=cut/);
  await expect.poll(() => amount(page)).toBeLessThan(all);
  const cuts = await amount(page);
  expect(cuts).toBeGreaterThan(50);
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: `Accept ${cuts} marked` }).click();
  await expect(sheet(page)).toHaveText(`${cuts} lines on the sheet`);
  await expect(page.getByText('Nothing matches these filters.')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('adjusting in place: a bid of one’s own, and a bid the marketplace would not show', async ({ page }) => {
  await open(page, '/round?queue=targets');
  await page.keyboard.press('e');
  await page.getByRole('textbox', { name: 'Bid' }).fill('0.02');
  await page.keyboard.press('Enter');
  await expect(page.getByText('below the marketplace’s least bid of 0.03')).toBeVisible();
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await expect(rows(page).first()).toBeVisible();
  await page.keyboard.press('e');
  await page.getByRole('textbox', { name: 'Bid' }).fill('0.37');
  await page.keyboard.press('Enter');
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await page.goto(`${stack.url}/ledger`);
  await expect(page.getByRole('textbox', { name: /^New bid of/ })).toHaveValue('0.37');
  await expect(page.getByText('(Mowing, adjusted)')).toBeVisible();
  // The line is edited on the sheet, kept over a reload, removed, and the removal undone.
  await page.getByRole('textbox', { name: /^New bid of/ }).fill('0.41');
  // The page is left in the same moment: what was pressed arrives all the same.
  await page.keyboard.press('Enter');
  await page.goto(`${stack.url}/goals`);
  await page.goto(`${stack.url}/ledger`);
  await expect(page.getByRole('textbox', { name: /^New bid of/ })).toHaveValue('0.41');
  await page.getByRole('button', { name: /^Remove .* from the sheet/ }).click();
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Export as CSV' }).click(),
  ]);
  const text = await (
    await download.createReadStream()
  )
    .toArray()
    .then((parts) => Buffer.concat(parts).toString('utf8'));
  expect(text.split('\n')[0]).toContain('line_id,sheet,action,entity');
  expect(text).toContain(',0.41,');
  await page.getByRole('button', { name: /^Remove .* from the sheet/ }).click();
});

test('a negative adjusted to a phrase; two lines for one field conflict until one is removed', async ({
  page,
}) => {
  await open(page, '/round?queue=terms&proposal=negative');
  await page.keyboard.press('e');
  await page.getByRole('combobox', { name: 'Way' }).selectOption({ label: 'phrase in its ad group' });
  await page.getByRole('button', { name: 'Accept', exact: true }).click();
  await expect(sheet(page)).toHaveText('1 line on the sheet');
  await open(page, '/round?queue=targets');
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText('2 lines on the sheet');
  // The same target from another window, with another bid.
  const { lines } = await openSheetOf(stack.url);
  const key = lines.find(({ entity }) => entity === 'target')!.finding_key!;
  const conflict = await page.evaluate(async (finding) => {
    const { window } = (await (await fetch('/api/1/round')).json()) as {
      window: { from: string; to: string };
    };
    const body = { ...window, keys: [finding], adjustments: { [finding]: { bid: 360_000 } } };
    return (
      await fetch('/api/1/round/accept', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(body),
      })
    ).status;
  }, key);
  expect(conflict).toBe(200);
  await page.goto(`${stack.url}/ledger`);
  await expect(page.getByText('Conflicts: another line sets this too. Keep one.')).toHaveCount(2);
  await expect(page.getByText('Negative phrase', { exact: true })).toBeVisible();
  await expect(page.getByRole('button', { name: /^Send 3 lines/ })).toBeDisabled();
  const conflicting = page.getByRole('row').filter({ hasText: 'Conflicts: another line' });
  await conflicting
    .first()
    .getByRole('button', { name: /^Remove/ })
    .click();
  await expect(page.getByText('Conflicts: another line')).toHaveCount(0);
  await expect(page.getByRole('button', { name: /^Send 2 lines/ })).toBeEnabled();
  for (const left of ['1 line on the sheet', 'The sheet is empty']) {
    await page
      .getByRole('button', { name: /^Remove .* from the sheet/ })
      .first()
      .click();
    await expect(sheet(page)).toHaveText(left);
  }
});

test('skip and later leave the queue, stay over a reload, and come back with undo', async ({ page }) => {
  await open(page);
  const all = await amount(page);
  await page.keyboard.press('s');
  await page.keyboard.press('l');
  await expect.poll(() => amount(page)).toBe(all - 2);
  await expect(page.getByText(/^2 findings/)).toHaveCount(0);
  await page.reload();
  await expect(page.getByTestId('round-sentence')).toContainText('1 put off, 1 skipped');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(() => amount(page)).toBe(all);
});

test('keys that come one right after the other act each on the next row', async ({ page }) => {
  await open(page);
  const all = await amount(page);
  // Before the browser's next task: no hand, no other key and no timer comes between.
  await page.evaluate(async () => {
    for (const key of ['s', 'l', 's', 'l', 's', 'l']) {
      document.body.dispatchEvent(
        new KeyboardEvent('keydown', { key, code: `Key${key.toUpperCase()}`, bubbles: true }),
      );
      for (let turn = 0; turn < 100; turn++) await Promise.resolve();
    }
  });
  await expect.poll(() => amount(page)).toBe(all - 6);
  await page.reload();
  await expect(page.getByTestId('round-sentence')).toContainText('3 put off, 3 skipped');
  for (let step = 0; step < 6; step++) await page.keyboard.press('Control+z');
  await expect.poll(() => amount(page)).toBe(all);
});

test('what was asked before a decision does not bring its finding back', async ({ page }) => {
  await open(page);
  const all = await amount(page);
  let asked = 0;
  let release = () => {};
  const held = new Promise<void>((resolve) => (release = resolve));
  await page.route(/round\/queue/, async (route) => {
    const response = await route.fetch();
    if (asked++ === 0) await held;
    await route.fulfill({ response });
  });
  await page.keyboard.press('Control+z');
  await expect.poll(() => asked).toBe(1);
  await page.keyboard.press('s');
  await expect(page.getByTestId('round-sentence')).toContainText('1 skipped');
  release();
  await expect.poll(() => asked).toBe(2);
  await page.keyboard.press('s');
  await expect(page.getByTestId('round-sentence')).toContainText('2 skipped');
  expect(await amount(page)).toBe(all - 2);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(() => amount(page)).toBe(all);
});

test('a page that is left before its answers came forgets nothing: ctrl z takes all of it back', async ({
  page,
}) => {
  await open(page);
  const all = await amount(page);
  const empty = await sheet(page).innerText();
  const done: Promise<APIResponse>[] = [];
  await page.route(/round\/(accept|decide)$/, (route) => {
    // The server does it; the page never hears.
    done.push(route.fetch());
  });
  await page.keyboard.press('s');
  await expect.poll(() => amount(page)).toBe(all - 1);
  await page.keyboard.press('a');
  await expect.poll(() => done.length).toBe(2);
  for (const answer of await Promise.all(done))
    expect([answer.status(), await answer.text()]).toEqual([200, expect.anything()]);
  await page.unroute(/round\/(accept|decide)$/);
  await page.reload();
  await expect(sheet(page)).not.toHaveText(empty);
  await expect(page.getByTestId('round-sentence')).toContainText('1 skipped');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText(empty);
  await expect.poll(() => amount(page)).toBe(all);
});

test('filters, sorting and focus stand in the address: a link shows the same, Back works', async ({
  page,
}) => {
  await open(page);
  await page.keyboard.press('/');
  await page.keyboard.type('canning');
  await expect(rows(page).first()).toContainText('canning');
  await page.keyboard.press('Enter');
  await page.getByRole('columnheader', { name: 'Clicks' }).getByRole('button').click();
  await page.keyboard.press('j');
  await page.getByRole('combobox', { name: 'verdict' }).selectOption({ label: 'over goal' });
  await expect(page).toHaveURL(/q=canning.*sort=-clicks|sort=-clicks.*q=canning/);
  const first = await rows(page).first().innerText();
  const other = await page.context().browser()!.newPage();
  await other.goto(page.url());
  await expect(rows(other).first()).toBeVisible();
  expect(await rows(other).first().innerText()).toBe(first);
  await other.close();
  await page.keyboard.press(']');
  await expect(page).toHaveURL(/queue=targets/);
  await page.goBack();
  await expect(page).not.toHaveURL(/queue=targets/);
});

test('the season strip sets the window: presets by key, ends by arrow and by drag', async ({ page }) => {
  await open(page);
  const label = page.getByTestId('window');
  await expect(label).toHaveText('18 Oct – 16 Nov');
  await page.keyboard.press('4');
  await expect(label).toHaveText('18 Sep – 16 Nov');
  await page.keyboard.press('1');
  await expect(label).toHaveText('10 Nov – 16 Nov');
  await page.getByRole('slider', { name: 'First day of the window' }).focus();
  await page.keyboard.press('ArrowLeft');
  await expect(label).toHaveText('9 Nov – 16 Nov');
  const box = (await page.getByRole('slider', { name: 'Last day of the window' }).boundingBox())!;
  await page.mouse.move(box.x + 7, box.y + 20);
  await page.mouse.down();
  await page.mouse.move(box.x + 60, box.y + 20, { steps: 4 });
  await page.mouse.up();
  await expect(label).not.toHaveText('9 Nov – 16 Nov');
  await expect(page.getByText('settling days left out')).toBeVisible();
  await expect(rows(page).first()).toBeVisible();
});

test('the why panel: sentence, working, curve, season, windows, and y closes it', async ({ page }) => {
  await open(page, '/round?queue=targets');
  const why = page.getByTestId('why');
  for (const part of ['Likely ACOS', 'How it comes about', 'Its season', 'Windows', 'Expected per week']) {
    await expect(why.getByRole('heading', { name: part })).toBeVisible();
  }
  await expect(why).toContainText('Orders per click');
  const before = await page.getByTestId('why-sentence').innerText();
  await page.keyboard.press('j');
  await expect(page.getByTestId('why-sentence')).not.toHaveText(before);
  await page.keyboard.press('y');
  await expect(why).toHaveCount(0);
  await page.keyboard.press('y');
  await expect(why).toBeVisible();
});

test('a change of goal judges anew at once', async ({ page }) => {
  await open(page, '/round?queue=targets');
  const sentence = await page.getByTestId('round-sentence').innerText();
  await page.keyboard.press('g');
  await page.keyboard.press('g');
  const field = page.getByRole('textbox', { name: 'Target ACOS of The account, per cent' });
  await field.fill('12');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Everything is judged anew')).toBeVisible();
  await open(page, '/round?queue=targets');
  await expect(page.getByTestId('round-sentence')).not.toHaveText(sentence);
  await page.goto(`${stack.url}/goals`);
  await page.getByRole('textbox', { name: 'Target ACOS of TT-TMP1, per cent' }).fill('20');
  await page.keyboard.press('Enter');
  const override = page.getByRole('button', { name: 'Remove the override of TT-TMP1' });
  await expect(override).toBeVisible();
  await page.getByRole('textbox', { name: 'Target ACOS of TT-TMP1, per cent' }).fill('lots');
  await expect(page.getByRole('textbox', { name: 'Target ACOS of TT-TMP1, per cent' })).toHaveAttribute(
    'aria-invalid',
    'true',
  );
  await page.keyboard.press('Escape');
  await override.click();
  await expect(override).toHaveCount(0);
  // Each change is taken back by itself, the newest first: the removal, the override, the account's goal.
  await page.getByRole('heading', { name: 'Goals' }).click();
  await page.keyboard.press('Control+z');
  await expect(override).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(override).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(field).toHaveValue('26');
});

test('? shows the keys; every view passes the accessibility rules', async ({ page }) => {
  await open(page);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toContainText('Keys that work here');
  await page.keyboard.press('Escape');
  for (const path of ['/round', '/ledger', '/goals', '/data']) {
    await page.goto(`${stack.url}${path}`);
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
    if (path === '/round') await expect(page.getByTestId('why-sentence')).toBeVisible();
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
      .analyze();
    expect(
      violations.map(
        ({ id, nodes }) =>
          `${path} ${id}: ${nodes[0]?.html.slice(0, 160)} ${nodes[0]?.failureSummary?.slice(0, 200)}`,
      ),
    ).toEqual([]);
  }
});

test('words and conflicts stand among all findings by what they are worth; a phrase settles its terms', async ({
  page,
}) => {
  await open(page, '/round');
  const sentence = page.getByTestId('round-sentence');
  await expect(sentence).not.toContainText('still being looked for');
  const kinds = page.getByRole('group', { name: 'Kinds' });
  await expect(kinds.getByRole('button')).toHaveText([
    /^All/,
    /^Terms/,
    /^Targets/,
    /^Placements/,
    /^Budgets/,
    /^Hours/,
    /^Words/,
    /^Conflicts/,
    /^Structure/,
  ]);
  // One order of money over every kind.
  const shown = await rows(page).evaluateAll((list) =>
    list.map((row) => ({
      worth: Number(row.querySelector('.worth')?.textContent?.replace(/[^\d.]/g, '') ?? 0),
      kind: (row as HTMLElement).dataset.key!.split(':')[0],
      top: row.getBoundingClientRect().top,
    })),
  );
  shown.sort((a, b) => a.top - b.top);
  expect(shown.map(({ worth }) => worth)).toEqual(shown.map(({ worth }) => worth).sort((a, b) => b - a));
  expect(new Set(shown.map(({ kind }) => kind)).size).toBeGreaterThanOrEqual(3);
  await kinds.getByRole('button', { name: /^Words/ }).click();
  await expect(page).toHaveURL(/queue=words/);
  const words = await rows(page).first().locator('.name').innerText();
  await expect(page.getByTestId('why-sentence')).toContainText('hold these words');
  await expect(page.getByTestId('collateral')).toBeVisible();
  await page.keyboard.press('a');
  await expect(sheet(page)).not.toHaveText('The sheet is empty');
  await kinds.getByRole('button', { name: /^Terms/ }).click();
  await expect(sentence).toContainText('settled by the sheet');
  // What is settled stands last.
  await page.getByRole('searchbox', { name: 'Filter by text' }).fill(words);
  await page.keyboard.press('Enter');
  await expect(page.getByText(`covered by “${words}” on the sheet`).first()).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
  await expect(sentence).not.toContainText('settled by the sheet');
  await page.getByRole('searchbox', { name: 'Filter by text' }).fill('');
  await page.keyboard.press('Enter');
  await kinds.getByRole('button', { name: /^Conflicts/ }).click();
  await expect(rows(page).first()).toContainText('Repair');
  await page.keyboard.press('a');
  await expect(sheet(page)).toHaveText(/^\d+ lines? on the sheet$/);
  await page.keyboard.press('Control+z');
  await expect(sheet(page)).toHaveText('The sheet is empty');
});

test('what only waits for clicks is counted apart; once all else is decided the queue says that it is done', async ({
  page,
}) => {
  interface Finding {
    key: string;
    queue: string;
    proposal: { kind: string; held?: object; obstacle?: string | null };
  }
  const answer = await page.request.get(`${stack.url}/api/1/round`);
  const { findings } = (await answer.json()) as { findings: Finding[] };
  const terms = findings.filter(({ queue }) => queue === 'terms');
  const waits = ({ proposal }: Finding) =>
    proposal.kind === 'wait' && proposal.held === undefined && proposal.obstacle === null;
  const waiting = terms.filter(waits).length;
  await open(page);
  await expect(page.getByTestId('round-sentence')).toContainText(
    `${waiting.toLocaleString('en')} more only wait for clicks.`,
  );
  const decided = terms.filter((one) => !waits(one)).map(({ key }) => key);
  const skipped = await page.request.post(`${stack.url}/api/1/round/decide`, {
    data: { keys: decided, decision: 'skipped', days: 7 },
  });
  expect(skipped.status()).toBe(200);
  await page.goto(`${stack.url}/round?queue=terms`);
  await expect(page.getByRole('heading', { name: 'This queue is done' })).toBeVisible();
  await expect(page.getByText(`${waiting.toLocaleString('en')} terms only wait for clicks`)).toBeVisible();
  await expect(rows(page)).toHaveCount(0);
  await page.getByRole('button', { name: 'Show what waits' }).click();
  await expect(page).toHaveURL(/proposal=wait/);
  await expect(rows(page).first()).toContainText(/clicks to know|on its goal/);
});

test('an address that cannot be read says what is wrong with it, and the view stands', async ({ page }) => {
  await open(page, '/round?queue=nothing&from=2026-13-01&to=2026-11-16');
  const notes = page.getByTestId('address-note');
  await expect(notes.first()).toContainText('“2026-13-01” is no day');
  await expect(notes.last()).toContainText('There is none called “nothing”');
  await expect(page.getByTestId('window')).toHaveText('18 Oct – 16 Nov');
  await notes.first().getByRole('button', { name: 'Take it off' }).click();
  await expect(page).not.toHaveURL(/from=/);
  await open(
    page,
    '/explore?level=targets&cols=name,spend,colour&where={"column":"nonsense","is":"above","value":1}',
  );
  await expect(notes).toContainText('There is no column “colour” here');
  await expect(notes).toContainText('where:');
  await expect(page.getByRole('columnheader', { name: 'Spend' })).toBeVisible();
});
