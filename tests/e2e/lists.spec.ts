import { expect, test, type Page } from '@playwright/test';
import { startStack, type Stack } from '../support/stack.ts';

/** What all lists have alike: grids with a focus and marks, filters in the address, figures that explain themselves. */

let stack: Stack;
test.beforeAll(async () => {
  stack = await startStack(true);
});
test.afterAll(() => stack.stop());

const focused = (page: Page) => page.locator('[role=row][data-focus=true]');

/** The row that the grid points at while it has the focus of the keyboard. */
const pointed = async (page: Page, name: string) => {
  const id = await page.getByRole('grid', { name }).getAttribute('aria-activedescendant');
  return page.locator(`[id="${id}"]`);
};

for (const [place, name] of [
  ['/round', 'Findings'],
  ['/explore?level=targets', 'Rows'],
  ['/lanes?view=words', 'Words'],
  ['/lanes?view=conflicts', 'Conflicts'],
] as const) {
  test(`${name}: one stop of the Tab key, keys move what the grid points at, marks are told as selected`, async ({
    page,
  }) => {
    await page.goto(stack.url + place);
    const grid = page.getByRole('grid', { name });
    await expect(focused(page)).toHaveAttribute('aria-rowindex', name === 'Rows' ? '3' : '2');
    await expect(page.getByText('still being looked for')).toHaveCount(0);
    await expect(grid).toHaveAttribute('tabindex', '0');
    await expect(grid).toHaveAttribute('aria-multiselectable', 'true');
    const first = await focused(page).getAttribute('data-key');
    await page.keyboard.press('j');
    await expect(focused(page)).not.toHaveAttribute('data-key', first!);
    expect(await (await pointed(page, name)).getAttribute('data-key')).toBe(
      await focused(page).getAttribute('data-key'),
    );
    await expect(focused(page)).toHaveAttribute('aria-selected', 'false');
    await page.keyboard.press('x');
    await expect(focused(page)).toHaveAttribute('aria-selected', 'true');
    await page.keyboard.press('Escape');
    await expect(grid.locator('[role=row][aria-selected=true]')).toHaveCount(0);
    // To the last row and back; the row in focus is in the document wherever it stands.
    const rows = Number(await grid.getAttribute('aria-rowcount'));
    await page.keyboard.press('End');
    await expect(focused(page)).toHaveAttribute('aria-rowindex', String(rows));
    await grid.evaluate((element) => element.scrollTo({ top: 0 }));
    await expect(grid.locator('[role=row][aria-rowindex="4"]')).toBeVisible();
    await expect(focused(page)).toHaveAttribute('aria-rowindex', String(rows));
    await page.keyboard.press('Home');
    await expect(focused(page)).toHaveAttribute('data-key', first!);
  });
}

test('an address that cannot be read says what is wrong with it, and is mended by one press', async ({
  page,
}) => {
  const note = page.getByTestId('address-note');
  for (const [place, said, mended] of [
    [
      '/round?verdict=maybe&campaign=77x',
      [/verdict: There is none called “maybe”/, /campaign: .*“77x”/],
      /\/round(\?focus=[^&]*)?$/,
    ],
    [
      '/round?sort=nonsense',
      [/sort: There is none called “nonsense”\. There are worth, subject/],
      /\/round(\?focus=[^&]*)?$/,
    ],
    ['/lanes?view=words&only=nonsense', [/only: There is none called “nonsense”/], /view=words$/],
    ['/lanes?view=negatives&show=all&sort=-width', [/sort: There is none called “width”/], /show=all$/],
    ['/lanes?view=nonsense', [/view: There is none called “nonsense”\. There are map, words/], /\/lanes$/],
    ['/ledger?sheet=77', [/There is no sheet “77” that was sent/], /\/ledger$/],
    ['/explore?level=nonsense', [/There is no level “nonsense”/], /\/explore$/],
  ] as const) {
    await page.goto(stack.url + place);
    for (const text of said) await expect(note).toContainText(text);
    await note.getByRole('button', { name: 'Take it off' }).click();
    await expect(note).toHaveCount(0);
    await expect(page).toHaveURL(mended);
  }
});

test('figures say what they are when Tab comes to them: in heads, sentences and panels', async ({ page }) => {
  const said = page.getByTestId('explains');
  const asked = async (name: string) => {
    await page.locator(`[data-figure=${name}]`).first().focus();
    await expect(said).toBeVisible();
    const text = await said.innerText();
    await page.keyboard.press('Escape');
    await expect(said).toHaveCount(0);
    return text;
  };
  await page.goto(`${stack.url}/round?queue=targets`);
  await expect(focused(page)).toBeVisible();
  expect(await asked('worth')).toContain('a week');
  expect(await asked('earn')).toContain('Each click once');
  expect(await asked('likely')).toContain('eight times of ten');
  // The head of a column has what is usual among these rows beside it.
  const head = page.getByRole('columnheader', { name: 'Spend' }).getByRole('button');
  await head.focus();
  await expect(said).toContainText('What its clicks cost.');
  await expect(said).toContainText(/Half of these [\d,]+ findings lie between [\d.,]+ and [\d.,]+/);
  await page.keyboard.press('Escape');
  // Its name stays its own, for whoever hears it.
  await expect(head).toHaveAccessibleName('Spend');
  await page.goto(`${stack.url}/explore?level=campaigns`);
  await expect(page.getByTestId('explore-sentence')).toContainText('ACOS');
  expect(await asked('acos')).toContain('Without organic sales');
  await page.goto(`${stack.url}/goals`);
  expect(await asked('target_acos')).toContain('goal');
  await page.getByText('Share of revenue per click a bid may be').focus();
  await expect(said).toContainText('so that the scope meets its goal');
});

test('a key that is held moves on and leaves the address alone until it rests', async ({ page }) => {
  await page.goto(`${stack.url}/round`);
  await expect(focused(page)).toHaveAttribute('aria-rowindex', '2');
  const writes = await page.evaluate(() => {
    const original = history.replaceState.bind(history);
    let count = 0;
    history.replaceState = (...all: Parameters<typeof original>) => (count++, original(...all));
    for (let i = 0; i < 60; i++)
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'j', code: 'KeyJ', bubbles: true }));
    return count;
  });
  expect(writes).toBe(0);
  await page.keyboard.press('j');
  const key = await focused(page).getAttribute('data-key');
  await expect(page).toHaveURL(new RegExp(`focus=${encodeURIComponent(key!).replaceAll('%20', '\\+')}`));
  // A link leads to the same row.
  const url = page.url();
  await page.goto('about:blank');
  await page.goto(url);
  await expect(focused(page)).toHaveAttribute('data-key', key!);
});

test('who has not moved stays at the top when more findings come, and the row in focus is seen whole', async ({
  page,
}) => {
  let release = () => {};
  const held = new Promise<void>((done) => (release = done));
  await page.route('**/api/*/round/wider*', async (route) => {
    await held;
    await route.continue();
  });
  await page.goto(`${stack.url}/round?proposal=negative`);
  const grid = page.getByRole('grid', { name: 'Findings' });
  const first = grid.locator('[role=row][data-key]').first();
  await expect(first).toHaveAttribute('data-focus', 'true');
  const before = await first.getAttribute('data-key');
  release();
  await expect(page.getByText('still being looked for')).toHaveCount(0);
  // Words go before what was there, and the focus stays where it was: at the first row.
  await expect(first).not.toHaveAttribute('data-key', before!);
  await expect(first).toHaveAttribute('data-focus', 'true');
  const focused = grid.locator('[data-focus=true]');
  const [head, all] = [await grid.locator('[role=row]').first().boundingBox(), await grid.boundingBox()];
  for (const key of ['j', 'j', 'End', 'k', 'Home', 'End', ...Array.from({ length: 30 }, () => 'k')]) {
    await page.keyboard.press(key);
    await expect
      .poll(async () => {
        const row = (await focused.boundingBox())!;
        return row.y >= head!.y + head!.height - 1 && row.y + row.height <= all!.y + all!.height + 1;
      }, key)
      .toBe(true);
  }
});

test('who has pressed a key keeps the row that stood there, whatever comes before it', async ({ page }) => {
  let release = () => {};
  const held = new Promise<void>((done) => (release = done));
  await page.route('**/api/*/round/wider*', async (route) => {
    await held;
    await route.continue();
  });
  await page.goto(`${stack.url}/round?proposal=negative`);
  const first = page.getByRole('grid', { name: 'Findings' }).locator('[role=row][data-key]').first();
  await expect(first).toHaveAttribute('data-focus', 'true');
  const meant = (await first.getAttribute('data-key'))!;
  await page.keyboard.press('e');
  await expect(page.getByRole('combobox', { name: 'Way' })).toBeVisible();
  release();
  await expect(page.getByText('still being looked for')).toHaveCount(0);
  await expect(first).not.toHaveAttribute('data-key', meant);
  await expect(focused(page)).toHaveAttribute('data-key', meant);
  await expect(page.getByRole('combobox', { name: 'Way' })).toBeVisible();
});

test('at 1024 px no verdict is cut', async ({ page }) => {
  await page.setViewportSize({ width: 1024, height: 768 });
  for (const [path, name] of [
    ['/round', 'Findings'],
    ['/explore?level=targets', 'Rows'],
    ['/explore?level=terms', 'Rows'],
  ] as const) {
    await page.goto(stack.url + path);
    const grid = page.getByRole('grid', { name });
    await expect(grid.locator('[role=row][data-key]').first()).toBeVisible();
    await expect(page.getByText('still being looked for')).toHaveCount(0);
    const verdicts = await grid.evaluate((element) => {
      const seen = element.getBoundingClientRect();
      const texts = document.createTreeWalker(element, NodeFilter.SHOW_TEXT);
      const found: { text: string; isWhole: boolean }[] = [];
      for (let node = texts.nextNode(); node; node = texts.nextNode()) {
        const text = node.textContent?.trim() ?? '';
        const cell = node.parentElement!.closest('[role=gridcell]')?.getBoundingClientRect();
        if (!cell || !/^(over|under|undecided)( goal)?$/.test(text)) continue;
        const range = document.createRange();
        range.selectNodeContents(node);
        const { left, right } = range.getBoundingClientRect();
        const isWhole = left >= cell.left - 1 && right <= cell.right + 1 && right <= seen.right;
        found.push({ text, isWhole });
      }
      return found;
    });
    expect(verdicts.length, path).toBeGreaterThan(5);
    expect(
      verdicts.filter(({ isWhole }) => !isWhole),
      path,
    ).toEqual([]);
  }
});
