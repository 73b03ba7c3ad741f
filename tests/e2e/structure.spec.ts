import { randomUUID } from 'node:crypto';
import { expect, test, type Page } from '@playwright/test';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { structureKinds, type StructureKind } from '../../src/core/structure/types.ts';
import { sentSheetOf } from '../support/sheets.ts';
import { callQuayside, startStack, structureOf, type Stack } from '../support/stack.ts';

/** Every kind of structure finding once, in an account where somebody built each fault: repaired by the sheet, and taken back. */

// High enough for every finding: rows beyond the view are not in the page.
test.use({ viewport: { width: 1280, height: 2400 } });

let stack: Stack;
let span = '';

interface Line {
  action: 'create';
  [name: string]: unknown;
}
const make = (entity: string, more: object): Line => ({ action: 'create', entity, ...more });

/** A campaign with ad groups of targets, as lines of one batch. */
function built(
  name: string,
  budget: number,
  groups: Record<string, [type: string, text: string][]>,
  sku = 'TT-LID4',
): Line[] {
  const kind = Object.values(groups)
    .flat()
    .some(([type]) => type === 'automatic')
    ? 'automatic'
    : 'manual';
  return [
    make('campaign', { temp_id: name, values: { name, kind, budget } }),
    ...Object.entries(groups).flatMap(([group, targets]) => {
      const place = { ad_group_id: `new:${name} ${group}` };
      return [
        make('ad_group', {
          temp_id: `${name} ${group}`,
          campaign_id: `new:${name}`,
          values: { name: group, default_bid: 0.9 },
        }),
        make('product_ad', { ...place, expression: sku }),
        ...targets.map(([type, expression]) =>
          make('target', {
            ...place,
            expression,
            new_value: '2',
            ...(type === 'automatic' || type === 'category'
              ? { target_kind: type }
              : { target_kind: 'keyword', match_type: type }),
          }),
        ),
      ];
    }),
  ];
}

test.beforeAll(async () => {
  test.setTimeout(300_000);
  stack = await startStack(true);
  const { keywords } = await callQuayside<{ keywords: { keyword: string }[] }>(
    stack.quayside,
    'POST',
    '/suggestions',
    {
      sku: 'TT-LID4',
      keywords: 12,
    },
  );
  const words = keywords.map(({ keyword }) => keyword);
  const lines = [
    ...built('Lids of all types', 12, {
      all: [
        ['broad', words[0]!],
        ['phrase', words[1]!],
        ['exact', words[2]!],
      ],
    }),
    // One sells, the other pays for what never buys, out of one budget.
    ...built('Lids pair', 14, {
      good: ['airlock lids', 'fermenting lids', 'fermentation lids'].map((text) => ['exact', text]),
      bad: ['canning', 'jar', 'mason jar', 'glass', 'pickle'].map((text) => ['broad', text]),
    }),
    ...built('Lids small', 3, { own: [['broad', 'lids']] }),
    ...built('Zapping', 10, { own: [['exact', words[5]!]] }),
    ...built('Lids and kit', 10, { own: [['exact', words[6]!]] }),
    make('product_ad', { ad_group_id: 'new:Lids and kit own', expression: 'TT-KIT1' }),
    // All that the shop has, what is sold out as well.
    make('campaign', { temp_id: 'Everything', values: { name: 'Everything', kind: 'manual', budget: 10 } }),
    make('ad_group', {
      temp_id: 'Everything all',
      campaign_id: 'new:Everything',
      values: { name: 'all', default_bid: 0.3, rule: { inStock: false } },
    }),
    make('target', {
      ad_group_id: 'new:Everything all',
      target_kind: 'keyword',
      match_type: 'broad',
      expression: 'fermentation',
      new_value: '0.3',
    }),
  ].map((line, at) => ({ line_id: String(at), ...line }));
  const answer = await callQuayside<{ lines: { state: string; message?: string }[] }>(
    stack.quayside,
    'POST',
    '/changes',
    { idempotency_key: randomUUID(), lines },
  );
  expect(answer.lines.filter(({ state }) => state !== 'applied')).toEqual([]);
  const { today } = await callQuayside<{ today: string }>(stack.quayside, 'POST', '/clock/advance', {
    days: 35,
  });
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/fetch', {});
  await waitForJob(stack.url, jobId);
  // Before its campaigns were known to Mowing, the tamper had a season: its spring, out of the shop's own books.
  const rows = Array.from({ length: 120 }, (_, at) => {
    const day = new Date(Date.parse('2026-03-01') + at * 864e5).toISOString().slice(0, 10);
    return `${day},TT-TMP1,1800,90,95,1260.00`;
  });
  const text = ['date,sku,sessions,total_orders,total_units,total_sales', ...rows].join('\n');
  const sent = await fetch(`${stack.url}/api/1/files?name=products-daily.csv`, {
    method: 'POST',
    body: text,
  });
  const { uploadId } = (await sent.json()) as { uploadId: string };
  const load = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/imports', {
    uploadId,
    kind: 'products-daily',
  });
  await waitForJob(stack.url, load.jobId);
  const to = new Date(Date.parse(today) - 9 * 864e5).toISOString().slice(0, 10);
  const from = new Date(Date.parse(to) - 27 * 864e5).toISOString().slice(0, 10);
  span = `from=${from}&to=${to}`;
});
test.afterAll(() => stack.stop());

const rowsOf = (page: Page, kind: StructureKind) =>
  page.locator('[role=row][data-key]').filter({ hasText: `${structureKinds[kind]}.` });

test('products that earn unlike an order are named; there is nothing to accept', async ({ page }) => {
  await page.goto(`${stack.url}/round?queue=structure&${span}`);
  const row = rowsOf(page, 'unlike_products').filter({ hasText: 'Lids and kit' });
  await expect(row).toContainText('TT-KIT1 leaves');
  await row.click();
  await expect(page.getByText('There is none that lines on a sheet could make.')).toBeVisible();
  await page.keyboard.press('a');
  await expect(page.getByTestId('sheet-lines')).toHaveText('The sheet is empty');
  await expect(row).toBeVisible();
  await page.getByRole('link', { name: 'All targets of the campaign' }).click();
  await expect(page.locator('[role=row][data-key]')).toHaveCount(1);
});

test('a best keyword that its budget starves is offered in Spend as well, put on the sheet, and taken back', async ({
  page,
}) => {
  await page.goto(`${stack.url}/spend?kind=alone&${span}`);
  const rows = page.locator('[role=row][data-key]');
  await expect(rows.first()).toBeVisible({ timeout: 20_000 });
  const name = await rows.first().locator('b').first().innerText();
  const panel = page.getByRole('complementary', { name: 'Why' });
  await expect(panel.getByRole('heading', { name: 'Stand alone' })).toBeVisible();
  await expect(panel).toContainText(/brings \d+ of \d+ orders among \d+ keywords/);
  await expect(panel).toContainText(/A campaign for it alone at [\d.]+ a day, taken from this one/);
  const put = await panel.getByRole('button', { name: /^Put \d+ lines on the sheet$/ }).innerText();
  await page.keyboard.press('o');
  await expect(page.getByTestId('sheet-lines')).toHaveText(`${/\d+/.exec(put)![0]} lines on the sheet`);
  await expect(panel.getByRole('button', { name: 'On the sheet', exact: true })).toBeDisabled();
  await page.goto(`${stack.url}/round?queue=structure&${span}`);
  await expect(rows.first()).toBeVisible({ timeout: 20_000 });
  await expect(rowsOf(page, 'starved_best').filter({ hasText: name })).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('sheet-lines')).toHaveText('The sheet is empty');
  await expect(rowsOf(page, 'starved_best').filter({ hasText: name })).not.toHaveCount(0);
});

const repaired = (Object.keys(structureKinds) as StructureKind[]).filter(
  (kind) => kind !== 'unlike_products',
);
for (const kind of repaired) {
  test(`${structureKinds[kind]}: found, repaired, sent, and seen at the marketplace`, async ({ page }) => {
    await page.goto(`${stack.url}/round?queue=structure&${span}`);
    await expect(page.locator('[role=row][data-key]').first()).toBeVisible({ timeout: 20_000 });
    const all = rowsOf(page, kind);
    // What parts one fault may take another along.
    const row = (kind === 'mixed_match_types' ? all.filter({ hasText: 'Lids of all types' }) : all).first();
    await expect(row).toBeVisible();
    await row.click();
    await expect(page.getByText('What is lost')).toBeVisible();
    const before = await structureOf(stack.quayside);
    await page.keyboard.press('a');
    await expect(page.getByTestId('sheet-lines')).toHaveText(/^\d+ lines? on the sheet$/);
    const count = (await page.getByTestId('sheet-lines').innerText()).split(' ')[0]!;
    await page.getByRole('link', { name: 'Check and send' }).click();
    await page.getByRole('button', { name: new RegExp(`^Send ${count} lines? to Quayside$`) }).click();
    await expect(page.getByTestId('sheet-lines')).toHaveText('The sheet is empty', { timeout: 30_000 });
    await expect(page.getByText(`${count} of ${count} applied`).first()).toBeVisible();
    const after = await structureOf(stack.quayside);
    const named = (rows: typeof before) =>
      new Map(rows.filter(({ entity }) => entity === 'campaign').map((one) => [one.campaign_id, one]));
    const [old, now] = [named(before), named(after)];
    const made = [...now.values()].filter(({ campaign_id: id }) => !old.has(id));
    const changed = [...now.values()].filter((one) => {
      const was = old.get(one.campaign_id);
      return was && JSON.stringify(was) !== JSON.stringify(one);
    });
    switch (kind) {
      case 'no_end_date':
        expect(changed[0]!.end_date).toBeTruthy();
        break;
      case 'collection': {
        const ruleOf = (rows: typeof before) =>
          rows.find(({ entity, campaign }) => entity === 'ad_group' && campaign === 'Everything')!.rule;
        expect(String(ruleOf(before))).toContain('"inStock":false');
        // An earlier sheet of one line says the same of itself: the marketplace is asked.
        await expect
          .poll(async () => String(ruleOf(await structureOf(stack.quayside))), { timeout: 30_000 })
          .toContain('"inStock":true');
        break;
      }
      case 'off_pattern':
        expect(changed).toMatchObject([{ campaign: expect.stringMatching(/^\S+ .+/) }]);
        break;
      case 'small_budget':
        expect(Number(changed[0]!.daily_budget)).toBeGreaterThan(
          Number(old.get(changed[0]!.campaign_id)!.daily_budget),
        );
        break;
      case 'unseen_keywords':
        expect(after.filter(({ status }) => status === 'paused').length).toBeGreaterThan(
          before.filter(({ status }) => status === 'paused').length,
        );
        break;
      default: {
        expect(made.length).toBeGreaterThan(0);
        const ids = new Set(made.map(({ campaign_id: id }) => id));
        const moved = after.filter(({ entity, campaign_id: id }) => entity === 'target' && ids.has(id));
        expect(moved.length).toBeGreaterThan(0);
        // What moved is paused where it was, and bids what it bid.
        for (const target of moved)
          expect(
            after.filter(
              (one) =>
                one.entity === 'target' &&
                one.status === 'paused' &&
                one.expression === target.expression &&
                one.bid === target.bid,
            ).length,
          ).toBeGreaterThan(0);
      }
    }
  });
}

test('a repair is taken back whole: what was paused runs, what was made is archived', async () => {
  const { sheets } = await callApi<{ sheets: { sheet_id: number }[] }>(stack.url, 'GET', '/api/1/ledger');
  const own = (
    await Promise.all(
      sheets.map(async ({ sheet_id: id }) => ({ id, lines: (await sentSheetOf(stack.url, id)).lines })),
    )
  ).find(({ lines }) => lines.some(({ campaign }) => campaign === 'Lids of all types'))!;
  await callApi(stack.url, 'POST', `/api/1/ledger/${own.id}/revert`, { lineIds: null });
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/sheet/send', {
    clicksMeant: true,
  });
  await waitForJob(stack.url, jobId);
  const rows = await structureOf(stack.quayside);
  const of = (entity: string, campaign: RegExp) =>
    rows.filter((row) => row.entity === entity && campaign.test(String(row.campaign)));
  expect(of('target', /^Lids of all types$/).map(({ status }) => status)).toEqual([
    'enabled',
    'enabled',
    'enabled',
  ]);
  expect(of('campaign', /^Lids of all types$/)).toMatchObject([{ daily_budget: 12 }]);
  expect(of('campaign', /^Lids of all types ./).map(({ status }) => status)).toEqual([
    'archived',
    'archived',
  ]);
});
