import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import type { SheetLine } from '../../src/answers/changes.ts';
import type {
  CategoriesAnswer,
  CollectionRow,
  DeskAnswer,
  GroundsAnswer,
  KitAnswer,
  PagesAnswer,
} from '../../src/answers/kits.ts';
import type { KitBody } from '../../src/core/kits/kit.ts';
import { pairOf } from '../../src/core/kits/creatives.ts';
import { shippedRecipes } from '../../src/core/kits/recipe.ts';
import { kitBody as bodyOf } from '../support/kits.ts';
import { pngOf } from '../support/pictures.ts';
import { openSheetOf, sentSheetOf } from '../support/sheets.ts';
import { callQuayside, startStack, structureOf, type Stack } from '../support/stack.ts';

/** What stands is completed and refreshed; catalogue, collections, pictures, budgets of all days. */

let stack: Stack;
beforeAll(async () => {
  stack = await startStack(true, { MOWING_BATCH_LINES: '12' });
});
afterAll(() => stack.stop());

const call = <T>(method: string, path: string, body?: unknown) =>
  callApi<T>(stack.url, method, `/api/1${path}`, body);
const begin = (more: Partial<KitBody> = {}): Promise<KitAnswer> =>
  call('POST', '/kits', { kitId: randomUUID(), body: bodyOf(more) });
const put = ({ kitId, version }: KitAnswer) =>
  call<{ groups: string[]; lines: number }>('POST', `/kits/${kitId}/sheet`, { version });
async function send(): Promise<{ sheetId: number; lines: SheetLine[] }> {
  const { jobId } = await call<{ jobId: string }>('POST', '/sheet/send', {});
  const { sheetId } = (await waitForJob(stack.url, jobId)).result as { sheetId: number };
  return { sheetId, lines: (await sentSheetOf(stack.url, sheetId)).lines };
}
const fetchAll = async () => {
  const { jobId } = await call<{ jobId: string }>('POST', '/fetch', {});
  await waitForJob(stack.url, jobId);
};
const fault = (kind: string, times: number) =>
  fetch(`${stack.quayside}/faults`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ kind, times }),
  });
const advance = (days: number) => callQuayside(stack.quayside, 'POST', '/clock/advance', { days });
const applied = (lines: SheetLine[]) => {
  expect(lines.filter(({ state }) => state !== 'applied')).toEqual([]);
  expect(lines.length).toBeGreaterThan(0);
};
const code = 'Tamper';

describe('a product’s set', () => {
  test('that is broken is completed where it stands, and then nothing is left to make', async () => {
    const { grounds } = await call<GroundsAnswer>('GET', '/kits/grounds?sku=TT-TMP1');
    expect(grounds.running.map(({ campaign }) => campaign)).toContain('Tamper exact');
    const before = await structureOf(stack.quayside);
    const kit = await begin({ completes: true, codes: { 'TT-TMP1': code } });
    await put(kit);
    const { lines } = await send();
    applied(lines);
    const own = lines.filter(({ campaign }) => campaign === 'Tamper exact');
    expect(new Set(own.map(({ entity }) => entity))).toEqual(new Set(['target', 'negative']));
    expect(own.map(({ expression }) => expression)).toContain('wooden kraut pounder');
    const after = await structureOf(stack.quayside);
    const campaigns = (rows: typeof before) => rows.filter(({ entity }) => entity === 'campaign').length;
    const made = lines.filter(({ entity, action }) => entity === 'campaign' && action === 'create').length;
    expect(made).toBeLessThan(6);
    expect(campaigns(after) - campaigns(before)).toBe(made);
    // What was just made is recognised as what it is.
    await expect(put(await call('GET', `/kits/${kit.kitId}`))).rejects.toThrow(
      'Everything stands as it would be made',
    );
  });

  test('that went stale is refreshed: the category with its bid, and taken back', async () => {
    const only = {
      ...shippedRecipes[0]!,
      parts: shippedRecipes[0]!.parts.filter(({ name }) => name === 'category'),
    };
    const page = (await call<GroundsAnswer>('GET', '/kits/grounds?sku=TT-PHS2')).grounds.page;
    const kit = await begin({
      skus: ['TT-PHS2'],
      recipe: { ...only, name: 'Category' },
      completes: true,
      codes: { 'TT-PHS2': 'Strips new' },
      edits: { 'TT-PHS2': { category: { stands: null, bid: 610_000 } } },
    });
    await put(kit);
    applied((await send()).lines);
    // Ratings move; a day is found on which ours has.
    let moved = page;
    for (let day = 0; day < 40 && moved.rating === page.rating; day += 4) {
      await advance(4);
      await fetchAll();
      moved = (await call<GroundsAnswer>('GET', '/kits/grounds?sku=TT-PHS2')).grounds.page;
    }
    expect(moved.rating).not.toBe(page.rating);
    const { grounds } = await call<GroundsAnswer>('GET', '/kits/grounds?sku=TT-PHS2');
    const stands = grounds.running.find(({ campaign }) => campaign === 'Strips new category')!;
    const fresh = await begin({
      ...kit.body,
      edits: { 'TT-PHS2': { category: { stands: stands.adGroupId, refresh: true } } },
    });
    await put(fresh);
    const { lines, sheetId } = await send();
    applied(lines);
    expect(lines.map(({ action, entity }) => [action, entity])).toEqual(
      expect.arrayContaining([
        ['archive', 'target'],
        ['create', 'target'],
      ]),
    );
    const targets = async () =>
      (await structureOf(stack.quayside)).filter(
        (row) =>
          row.entity === 'target' && row.campaign === 'Strips new category' && row.status === 'enabled',
      );
    expect(await targets()).toMatchObject([
      { bid: 0.61, expression: expect.stringContaining(`rating -${moved.rating!.toFixed(1)}`) },
    ]);
    await call('POST', `/ledger/${sheetId}/revert`, { lineIds: null });
    applied((await send()).lines);
    expect(await targets()).toMatchObject([
      { expression: expect.stringContaining(`rating -${page.rating!.toFixed(1)}`) },
    ]);
  });
});

describe('the catalogue', () => {
  test('shows pages and categories, by words, category and brand', async () => {
    const { categories } = await call<CategoriesAnswer>('GET', '/kits/categories');
    expect(categories.length).toBeGreaterThan(4);
    const { category } = categories[0]!;
    const { pages, problem } = await call<PagesAnswer>(
      'GET',
      `/kits/pages?category=${encodeURIComponent(category)}`,
    );
    expect(problem).toBeNull();
    expect(pages.every((page) => page.category === category && page.price > 100_000)).toBe(true);
    const brand = pages.find((page) => page.brand !== 'Tarn & Thistle')!.brand;
    const ofBrand = await call<PagesAnswer>(
      'GET',
      `/kits/pages?brand=${brand}&search=${pages[0]!.itemCode.slice(0, 2)}`,
    );
    expect(ofBrand.pages.every((page) => page.brand === brand)).toBe(true);
    await expect(call('GET', '/kits/pages?colour=red')).rejects.toThrow('colour');
  });

  test('pages that a product aims at already come with what is known of it', async () => {
    const { grounds, suggestions } = await call<GroundsAnswer>('GET', '/kits/grounds?sku=TT-LID4');
    const aimed = new Set(
      grounds.running.flatMap(({ targets }) =>
        targets.filter(({ kind }) => kind === 'item').map((one) => one.expression),
      ),
    );
    expect(aimed.size).toBeGreaterThan(3);
    expect(suggestions.pages.map(({ itemCode }) => itemCode).sort()).toEqual([...aimed].sort());
  });

  test('that does not answer is told, and kits are made without', async () => {
    await fault('error', 40);
    const { pages, problem } = await call<PagesAnswer>('GET', '/kits/pages?search=lid');
    await fault('error', 0);
    expect(pages).toEqual([]);
    expect(problem).toContain('The catalogue does not answer');
  }, 60_000);

  test('collections tell who joined and who left', async () => {
    const rule = { brand: 'Tarn & Thistle', rating: [4.4, 5], inStock: true };
    const campaign = { name: 'By rule', kind: 'manual', budget: 10 };
    await callQuayside(stack.quayside, 'POST', '/changes', {
      idempotency_key: randomUUID(),
      lines: [
        { line_id: '1', action: 'create', entity: 'campaign', temp_id: 'c', values: campaign },
        {
          line_id: '2',
          action: 'create',
          entity: 'ad_group',
          campaign_id: 'new:c',
          values: { name: 'By rule', default_bid: 0.5, rule },
        },
      ],
    });
    await fetchAll();
    const read = async () => (await call<CollectionRow[]>('GET', '/kits/collections'))[0]!;
    const first = await read();
    expect(first).toMatchObject({ adGroup: 'By rule', rule });
    expect(first.members.length).toBeGreaterThan(0);
    expect(first.changes.map(({ sku, joined }) => [sku, joined])).toEqual(
      first.members.map(({ sku }) => [sku, true]),
    );
    let now = first;
    for (let days = 0; days < 40 && now.changes.length === first.changes.length; days += 4) {
      await advance(4);
      await fetchAll();
      now = await read();
    }
    const [{ sku, joined }] = now.changes as [CollectionRow['changes'][number]];
    expect(now.members.some((one) => one.sku === sku)).toBe(joined);
    // Day by day the changes come to what stands.
    const members = new Set<string>();
    for (const change of [...now.changes].reverse())
      if (change.joined) members.add(change.sku);
      else members.delete(change.sku);
    expect([...members].sort()).toEqual(now.members.map((one) => one.sku).sort());
  });
});

describe('what a kit may say beside', () => {
  const exact = shippedRecipes.find(({ name }) => name === 'Exact only')!;
  const picture = async (bytes: Buffer, name: string) => {
    const answer = await fetch(`${stack.url}/api/1/kits/pictures?name=${name}`, {
      method: 'POST',
      body: new Uint8Array(bytes),
    });
    return (await answer.json()) as { id: string; name: string; detail?: string };
  };

  test('pictures are checked by what they hold', async () => {
    const { limits } = await call<DeskAnswer>('GET', '/kits/desk');
    expect(limits.creatives).toMatchObject({ pictures: 3, pixels: 800, titles: 2 });
    expect((await picture(pngOf(640, 480, [1, 2, 3]), 'small.png')).detail).toBe(
      'small.png: it has 640 x 480 pixels; exactly 800 x 800 are needed.',
    );
    expect((await picture(Buffer.from('<svg/>'), 'claims.png')).detail).toBe(
      'claims.png: it is no JPEG or PNG picture, whatever it is called.',
    );
    const kept = await picture(pngOf(800, 800, [9, 9, 9]), 'front.png');
    expect((await picture(pngOf(800, 800, [9, 9, 9]), 'again.png')).id).toBe(kept.id);
    const shown = await fetch(`${stack.url}/api/1/kits/pictures/${kept.id}`);
    expect([shown.status, shown.headers.get('content-type')]).toEqual([200, 'image/png']);
  });

  test('pictures and titles leave with the sheet, a pair that is left out too; all of it is taken back', async () => {
    const front = await picture(pngOf(800, 800, [20, 90, 70]), 'front.png');
    const side = await picture(pngOf(800, 800, [90, 20, 70]), 'side.png');
    const kit = await begin({
      recipe: exact,
      codes: { 'TT-TMP1': 'Shown' },
      pictures: [front, side],
      titles: ['Solid beech', 'Fits wide jars'],
      leftOut: [pairOf(side.id, 'Solid beech')],
    });
    const { lines: count } = await put(kit);
    const open = await openSheetOf(stack.url);
    expect(open.lines).toHaveLength(count);
    const { lines, sheetId } = await send();
    applied(lines);
    const creatives = async () =>
      (await structureOf(stack.quayside))
        .filter(
          (row) =>
            ['picture', 'title', 'left_out'].includes(String(row.entity)) && row.campaign === 'Shown exact',
        )
        .map(({ entity, status }) => [entity, status]);
    expect((await creatives()).map(([entity]) => entity).sort()).toEqual([
      'left_out',
      'picture',
      'picture',
      'title',
      'title',
    ]);
    // The ad group stands now: a third picture joins it, and what it shows already is not sent again.
    const back = await picture(pngOf(800, 800, [70, 20, 90]), 'back.png');
    const { grounds } = await call<GroundsAnswer>('GET', '/kits/grounds?sku=TT-TMP1');
    const stands = grounds.running.find(({ campaign }) => campaign === 'Shown exact')!.adGroupId;
    const edits = { 'TT-TMP1': { exact: { stands } } };
    const more = await begin({ ...kit.body, completes: true, edits, pictures: [front, side, back] });
    expect(await put(more)).toMatchObject({ lines: 1 });
    applied((await send()).lines);
    expect(await creatives()).toHaveLength(6);
    const own = lines.filter(({ entity }) => ['picture', 'title', 'left_out'].includes(entity));
    await call('POST', `/ledger/${sheetId}/revert`, { lineIds: own.map(({ line_id }) => line_id) });
    applied((await send()).lines);
    expect((await creatives()).filter(([, status]) => status !== 'archived')).toHaveLength(1);
  });

  test('a lifetime budget, its pacing and dates arrive; the list of negatives stands in the campaign', async () => {
    const { id } = await call<{ id: number }>('POST', '/terms/lists', {
      name: 'Never',
      entries: [{ matchType: 'negative_phrase', expression: 'cheap plastic' }],
      campaignIds: [],
    });
    const { today } = await call<DeskAnswer>('GET', '/kits/desk');
    const year = Number(today!.slice(0, 4)) + 1;
    const kit = await begin({
      recipe: exact,
      codes: { 'TT-TMP1': 'Season' },
      budgetKind: 'lifetime',
      budget: 400_000_000,
      pacing: 'even',
      endDate: `${year}-01-31`,
      lists: [id],
    });
    const attached = async () =>
      (await call<{ campaignIds: string[] }>('GET', `/terms/lists/${id}`)).campaignIds;
    await put(kit);
    // What only stands on the sheet is no campaign yet.
    expect(await attached()).toEqual([]);
    const open = await call<{ newBudgets: object }>('GET', '/sheet');
    expect(open.newBudgets).toEqual({ daily: 0, lifetime: 400_000_000 });
    applied((await send()).lines);
    const rows = (await structureOf(stack.quayside)).filter((row) => row.campaign === 'Season exact');
    expect(rows.find(({ entity }) => entity === 'campaign')).toMatchObject({
      budget_kind: 'lifetime',
      lifetime_budget: 400,
      pacing: 'even',
      end_date: `${year}-01-31`,
    });
    expect(rows.filter((row) => row.entity === 'negative' && row.scope === 'campaign')).toMatchObject([
      { expression: 'cheap plastic' },
    ]);
    const list = await call<{ missing: number; standing: number; campaignIds: string[] }>(
      'GET',
      `/terms/lists/${id}`,
    );
    expect(list).toMatchObject({ missing: 0, standing: 1 });
    expect(await attached()).toHaveLength(1);
    await fetchAll();
    const answer = await call<{ rows: object[] }>('POST', '/explore/table', {
      level: 'campaigns',
      columns: ['name', 'lifetime_budget'],
      where: { column: 'name', is: 'contains', value: 'Season exact' },
      sort: 'name',
      limit: 5,
      window: { from: '2026-10-18', to: '2026-11-16' },
    });
    expect(JSON.stringify(answer.rows)).toContain('400000000');
  });

  test('products of like profit share campaigns, each advertised in them', async () => {
    const { products } = await call<DeskAnswer>('GET', '/kits/desk');
    const skus = products.map(({ sku }) => sku).slice(0, 2);
    const kit = await begin({ skus, recipe: exact, together: 'all', codes: { [skus[0]!]: 'Both' } });
    await put(kit);
    applied((await send()).lines);
    const ads = (await structureOf(stack.quayside)).filter(
      (row) => row.entity === 'product_ad' && row.campaign === 'Both exact',
    );
    expect(ads.map(({ sku }) => sku).sort()).toEqual([...skus].sort());
  });
});
