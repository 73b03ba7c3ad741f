import { parse } from 'csv-parse/sync';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startQuayside, type Running } from '../../scripts/lib/processes.ts';
import { pngOf } from '../support/pictures.ts';
import { callQuayside, makeDatabase, reportText, structureOf } from '../support/stack.ts';

let quayside: Running;
beforeAll(async () => {
  quayside = await startQuayside({
    databaseUrl: await makeDatabase('quayside_seed'),
    scenario: process.env.MOWING_TEST_SCENARIO!,
    days: 0,
    env: { QUAYSIDE_RATE: '2000' },
  });
});
afterAll(() => quayside.stop());

const call = <T>(method: string, path: string, body?: unknown) =>
  callQuayside<T>(quayside.url, method, path, body);
interface Answer {
  lines: { line_id: string; state: string; code?: string; message?: string; id?: string }[];
  repeated: boolean;
}
let keys = 0;
const change = async (lines: object[], key = `creation-key-${++keys}`) =>
  call<Answer>('POST', '/changes', {
    idempotency_key: key,
    lines: lines.map((line, i) => ({ line_id: String(i), action: 'create', ...line })),
  });
const idsOf = ({ lines }: Answer): string[] => {
  expect(lines.filter(({ state }) => state !== 'applied')).toEqual([]);
  return lines.map(({ id }) => id!);
};
const codesOf = ({ lines }: Answer) => lines.map(({ state, code }) => code ?? state);
const report = async (kind: string, from: string, to: string) =>
  parse(await reportText(quayside.url, kind, from, to), { columns: true }) as Record<string, string>[];
const today = async () => (await call<{ today: string }>('GET', '/account')).today;
const advance = async (days: number) => {
  const from = await today();
  const { today: to } = await call<{ today: string }>('POST', '/clock/advance', { days });
  const first = new Date(Date.parse(from) + 864e5).toISOString().slice(0, 10);
  return { from: first, to };
};

interface Item {
  item_code: string;
  sku: string | null;
  title: string;
  brand: string;
  category: string;
  price: number;
  list_price: number;
  discount: number;
  rating: number;
  stock: number;
}
const catalogue = async (query: string) =>
  (await call<{ items: Item[]; next_cursor: string | null }>('GET', `/catalogue?${query}`)).items;

const campaign = (name: string, more: object = {}) => ({
  entity: 'campaign',
  temp_id: 'c',
  values: { name, kind: 'manual', budget: 20, ...more },
});
const adGroup = (name: string, more: object = {}) => ({
  entity: 'ad_group',
  temp_id: 'g',
  campaign_id: 'new:c',
  values: { name, default_bid: 0.9, ...more },
});
const productAd = (sku: string) => ({ entity: 'product_ad', ad_group_id: 'new:g', expression: sku });
const keyword = (expression: string, matchType: string, bid = '1.20') => ({
  entity: 'target',
  ad_group_id: 'new:g',
  target_kind: 'keyword',
  match_type: matchType,
  expression,
  new_value: bid,
});

describe('the catalogue', () => {
  test('holds items of all sellers, found by words, code, category, brand, price and rating', async () => {
    const all = await catalogue('limit=1000');
    expect(all.length).toBeGreaterThan(500);
    expect(all.filter(({ sku }) => sku !== null)).toHaveLength(8);
    expect(new Set(all.map(({ brand }) => brand)).size).toBeGreaterThan(50);
    const [lid] = await catalogue('item_code=qy7k2m9a');
    expect(lid).toMatchObject({ sku: 'TT-LID4', price: 18.9, category: 'fermenting lids' });
    const dear = await catalogue('category=fermenting%20crocks&price_from=50&rating_to=4&limit=1000');
    expect(dear.length).toBeGreaterThan(3);
    for (const item of dear) {
      expect(item.category).toBe('fermenting crocks');
      expect(item.price).toBeGreaterThanOrEqual(50);
      expect(item.rating).toBeLessThanOrEqual(4);
    }
    const [first] = dear;
    const same = await catalogue(`brand=${first!.brand}&limit=1000`);
    expect(same).toContainEqual(first);
    expect(await catalogue('search=airlock%20lid&limit=1000')).toContainEqual(lid);
    expect(await catalogue('search=no%20such%20thing')).toEqual([]);
    const page = await call<{ items: Item[]; next_cursor: string }>('GET', '/catalogue?limit=2');
    const next = await catalogue(`limit=2&cursor=${page.next_cursor}`);
    expect([...page.items, ...next]).toEqual(all.slice(0, 4));
  });

  test('prices, ratings and stock move from day to day; a promotion is a discount on the list price', async () => {
    const before = new Map((await catalogue('limit=1000')).map((item) => [item.item_code, item]));
    await call('POST', '/clock/advance', { days: 6 });
    const after = await catalogue('limit=1000');
    const moved = (name: 'price' | 'rating' | 'stock') =>
      after.filter((item) => item[name] !== before.get(item.item_code)![name]).length;
    expect(moved('price')).toBeGreaterThan(20);
    expect(moved('rating')).toBeGreaterThan(20);
    expect(after.filter(({ stock }) => stock === 0).length).toBeGreaterThan(3);
    const reduced = after.filter(({ discount }) => discount > 0);
    expect(reduced.length).toBeGreaterThan(10);
    for (const { price, list_price: list, discount } of reduced)
      expect(price).toBeCloseTo(list * (1 - discount / 100), 1);
  });

  test('a category says which others are near it', async () => {
    const { items } = await call<{ items: { category: string; items: number; related: string[] }[] }>(
      'GET',
      '/categories',
    );
    const lids = items.find(({ category }) => category === 'fermenting lids')!;
    expect(lids.items).toBeGreaterThan(50);
    expect(lids.related).toContain('fermenting kits');
    expect(lids.related).not.toContain('fermenting lids');
  });
});

describe('suggestions', () => {
  interface Bid {
    low: number;
    middle: number;
    high: number;
  }
  interface Suggestions {
    keywords: { keyword: string; monthly_searches: number; bid: Bid }[];
    items: (Item & { monthly_visits: number; bid: Bid })[];
    targets: { expression: string; bid: Bid | null }[];
  }
  const asked = {
    sku: 'TT-LID4',
    keywords: 100,
    items: 40,
    targets: [
      { target_kind: 'keyword', match_type: 'exact', expression: 'airlock lids' },
      { target_kind: 'keyword', match_type: 'broad', expression: 'words that nobody types' },
    ],
  };

  test('keywords by volume and items that are looked at together, each with what clicks took', async () => {
    const { keywords, items, targets } = await call<Suggestions>('POST', '/suggestions', asked);
    expect(keywords).toHaveLength(100);
    expect(items.length).toBeGreaterThan(10);
    const volumes = keywords.map((one) => one.monthly_searches);
    expect(volumes).toEqual([...volumes].sort((a, b) => b - a));
    for (const { bid } of [...keywords, ...items]) {
      expect(bid.low).toBeLessThanOrEqual(bid.middle);
      expect(bid.middle).toBeLessThanOrEqual(bid.high);
    }
    expect(items.every(({ sku }) => sku === null)).toBe(true);
    expect(targets[0]!.bid!.middle).toBeGreaterThan(0.2);
    expect(targets[1]!.bid).toBeNull();
    expect(await call('POST', '/suggestions', asked)).toEqual({ keywords, items, targets });
  });

  test('an unknown product is told', async () => {
    await expect(call('POST', '/suggestions', { sku: 'NONE' })).rejects.toThrow('no product NONE');
  });
});

describe('creation', () => {
  test('a campaign with all below it in one batch: it shows, clicks and sells, and comes back with its settings', async () => {
    const lines = [
      campaign('Lids exact, new', { pacing: 'even', modifiers: { top_of_search: 20 }, budget: 60 }),
      adGroup('Lids exact, new'),
      productAd('TT-LID4'),
      keyword('airlock lids', 'exact', '2.10'),
      keyword('wide mouth airlock lids', 'exact', '2.10'),
      {
        entity: 'negative',
        ad_group_id: 'new:g',
        match_type: 'negative_phrase',
        expression: 'canning',
      },
    ];
    const answer = await change(lines, 'creation-whole-1');
    const [campaignId, adGroupId, adId, targetId] = idsOf(answer);
    expect(adId).toBe(`${adGroupId}:TT-LID4`);
    const again = await change(lines, 'creation-whole-1');
    expect(again).toMatchObject({ repeated: true, lines: answer.lines });
    const rows = (await structureOf(quayside.url)).filter((row) => row.campaign_id === campaignId);
    expect(rows.filter(({ entity }) => entity === 'campaign')).toMatchObject([
      { campaign: 'Lids exact, new', daily_budget: 60, pacing: 'even', status: 'enabled' },
    ]);
    expect(rows.filter(({ entity }) => entity === 'target')).toHaveLength(2);
    expect(rows.find(({ placement }) => placement === 'top_of_search')).toMatchObject({ modifier: 20 });

    const { from, to } = await advance(3);
    const shown = (await report('targets-daily', from, to)).filter((row) => row.target_id === targetId);
    const sum = (name: string) => shown.reduce((total, row) => total + Number(row[name]), 0);
    expect(sum('impressions')).toBeGreaterThan(50);
    expect(sum('clicks')).toBeGreaterThan(0);
  });

  test('what is wrong is refused line by line, and what stands on it with it', async () => {
    const [paused] = idsOf(await change([campaign('A paused one', { status: 'paused' })]));
    expect(paused).toMatch(/^c\d+$/);
    const codes = codesOf(
      await change([
        campaign('a PAUSED one'),
        adGroup('on what was refused'),
        productAd('TT-LID4'),
        { ...campaign('cheap', { budget: 1.5 }), temp_id: 'cheap' },
        { ...campaign('for ever', { budget: 50, budget_kind: 'lifetime' }), temp_id: 'ever' },
        { ...campaign('over', { end_date: '2026-01-01' }), temp_id: 'over' },
        { ...campaign('no kind', { kind: 'other' }), temp_id: 'kind' },
        { ...campaign('x'.repeat(121)), temp_id: 'long' },
        { ...campaign('fine'), temp_id: 'fine' },
        { ...adGroup('fine'), campaign_id: 'new:fine', temp_id: 'g1' },
        { ...adGroup('Fine'), campaign_id: 'new:fine', temp_id: 'g2' },
        { ...productAd('NONE'), ad_group_id: 'new:g1' },
        { ...productAd('TT-LID4'), ad_group_id: 'new:g1' },
        { ...productAd('TT-LID4'), ad_group_id: 'new:g1' },
        { ...keyword('a;b', 'exact'), ad_group_id: 'new:g1' },
        {
          entity: 'target',
          ad_group_id: 'new:g1',
          target_kind: 'automatic',
          expression: 'any',
          new_value: '1',
        },
        {
          entity: 'target',
          ad_group_id: 'new:g1',
          target_kind: 'category',
          expression: 'no such category',
          new_value: '1',
        },
        {
          entity: 'target',
          ad_group_id: 'new:g1',
          target_kind: 'category',
          expression: 'fermenting lids, price 20-10',
          new_value: '1',
        },
        { ...campaign('fine'), temp_id: 'fine2' },
        { ...campaign('other'), temp_id: 'fine' },
      ]),
    );
    expect(codes).toEqual([
      'name_taken',
      'parent_not_made',
      'parent_not_made',
      'budget_below_minimum',
      'end_date_needed',
      'end_date_passed',
      'bad_value',
      'bad_name',
      'applied',
      'applied',
      'name_taken',
      'unknown_product',
      'applied',
      'duplicate',
      'keyword_characters',
      'bad_value',
      'unknown_category',
      'bad_value',
      'name_taken',
      'bad_value',
    ]);
  });

  test('a product ad, a pacing, a lifetime budget and a name are changed and taken back', async () => {
    const end = new Date(Date.parse(await today()) + 20 * 864e5).toISOString().slice(0, 10);
    const [campaignId, adGroupId, adId] = idsOf(
      await change([
        campaign('To be changed', { budget_kind: 'lifetime', budget: 90, end_date: end }),
        adGroup('To be changed'),
        productAd('TT-TMP1'),
      ]),
    );
    const set = (id: string, field: string, old_value: string, new_value: string, entity = 'campaign') => ({
      action: 'update',
      entity,
      id,
      field,
      old_value,
      new_value,
    });
    expect(
      codesOf(
        await change([
          set(campaignId!, 'lifetime_budget', '90', '120'),
          set(campaignId!, 'daily_budget', '', '12'),
          set(campaignId!, 'lifetime_budget', '90', '100'),
          set(campaignId!, 'end_date', end, ''),
          set(campaignId!, 'pacing', 'as_it_comes', 'even'),
          set(campaignId!, 'pacing', 'even', 'sometimes'),
          set(campaignId!, 'name', '', 'Lids exact, new'),
          set(campaignId!, 'name', 'To be changed', 'Changed'),
          set(adGroupId!, 'related_categories', 'false', 'true', 'ad_group'),
          { action: 'archive', entity: 'product_ad', id: adId },
          { action: 'archive', entity: 'product_ad', id: adId },
        ]),
      ),
    ).toEqual([
      'applied',
      'bad_field',
      'stale',
      'end_date_needed',
      'applied',
      'bad_value',
      'name_taken',
      'applied',
      'applied',
      'applied',
      'unknown_object',
    ]);
    const rows = (await structureOf(quayside.url)).filter((row) => row.campaign_id === campaignId);
    expect(rows.find(({ entity }) => entity === 'campaign')).toMatchObject({
      campaign: 'Changed',
      lifetime_budget: 120,
      budget_kind: 'lifetime',
      pacing: 'even',
    });
    expect(rows.some(({ entity }) => entity === 'product_ad')).toBe(false);
  });

  test('a collection holds what its rule matches, and tells who joined and left', async () => {
    const rule = { brand: 'Tarn & Thistle', rating: [4.4, 5], inStock: true };
    const [, adGroupId] = idsOf(await change([campaign('By rule'), adGroup('By rule', { rule })]));
    const held = async () =>
      (await structureOf(quayside.url))
        .filter((row) => row.entity === 'product_ad' && row.ad_group_id === adGroupId)
        .map(({ sku }) => sku)
        .sort();
    const asked = async () =>
      (await catalogue('brand=Tarn%20%26%20Thistle&rating_from=4.4&in_stock=true'))
        .map(({ sku }) => sku)
        .sort();
    const known = new Set(await held());
    expect([...known]).toEqual(await asked());
    const { from, to } = await advance(12);
    const moves = await report('collections-daily', from, to);
    expect(moves.length).toBeGreaterThan(0);
    for (const { sku, change: move, ad_group_id: place } of moves) {
      expect(place).toBe(adGroupId);
      expect(known.has(sku!)).toBe(move === 'left');
      if (move === 'joined') known.add(sku!);
      else known.delete(sku!);
    }
    expect([...known].sort()).toEqual(await asked());
    expect(await held()).toEqual(await asked());
    expect(codesOf(await change([{ ...productAd('TT-LID4'), ad_group_id: adGroupId }]))).toEqual([
      'bad_action',
    ]);
  });

  test('pictures and titles: files are checked, pairs are shown apart, one left out is not', async () => {
    const { token } = await callQuayside<{ token: string }>(quayside.url, 'POST', '/token', {
      secret: 'quayside-demo',
    });
    const put = async (bytes: Buffer, type = 'image/png') => {
      const response = await fetch(`${quayside.url}/pictures`, {
        method: 'POST',
        headers: { authorization: `Bearer ${token}`, 'content-type': type },
        body: new Uint8Array(bytes),
      });
      return (await response.json()) as { id?: string; code?: string; message?: string };
    };
    expect(await put(pngOf(800, 600, [9, 9, 9]))).toMatchObject({ code: 'picture_size' });
    expect(await put(Buffer.from('no picture at all'))).toMatchObject({ code: 'bad_picture' });
    expect(await put(pngOf(800, 800, [9, 9, 9]), 'image/jpeg')).toMatchObject({ code: 'bad_picture' });
    const red = (await put(pngOf(800, 800, [200, 30, 30]))).id!;
    const blue = (await put(pngOf(800, 800, [30, 30, 200]))).id!;
    const kept = await fetch(`${quayside.url}/pictures/${red}`, {
      headers: { authorization: `Bearer ${token}` },
    });
    expect(Buffer.from(await kept.arrayBuffer()).equals(pngOf(800, 800, [200, 30, 30]))).toBe(true);

    const creative = (entity: string, expression: string) => ({ entity, ad_group_id: 'new:g', expression });
    const answer = await change([
      campaign('With pictures', { budget: 200 }),
      adGroup('With pictures'),
      productAd('TT-LID4'),
      keyword('lids', 'broad', '2.40'),
      creative('picture', red),
      creative('picture', blue),
      creative('title', 'Lids that breathe'),
      creative('title', 'Clean ferments'),
      creative('left_out', `${blue} Clean ferments`),
      creative('title', 'One too many'),
      creative('picture', 'p0000'),
      creative('left_out', 'neither nor'),
    ]);
    expect(codesOf(answer).slice(4)).toEqual([
      ...Array.from({ length: 5 }, () => 'applied'),
      'too_many_titles',
      'unknown_picture',
      'unknown_object',
    ]);
    const { from, to } = await advance(2);
    const rows = await report('creatives-daily', from, to);
    const pairs = new Set(rows.map(({ picture, title }) => `${picture} ${title}`));
    expect([...pairs].sort()).toEqual(
      [`${red} Clean ferments`, `${red} Lids that breathe`, `${blue} Lids that breathe`].sort(),
    );
    const id = answer.lines[1]!.id;
    const sum = (list: Record<string, string>[], name: string) =>
      list.reduce((total, row) => total + Number(row[name]), 0);
    const targets = (await report('targets-daily', from, to)).filter((row) => row.ad_group_id === id);
    for (const name of ['impressions', 'clicks', 'orders', 'sales'])
      expect(sum(rows, name)).toBeCloseTo(sum(targets, name), 2);
  });
});

// Last: nothing shows once the money is gone.
test('a wallet that runs dry stops every campaign until it is filled', async () => {
  const spent = async (from: string, to: string) =>
    (await report('targets-daily', from, to)).reduce((sum, row) => sum + Number(row.spend), 0);
  expect(await call('GET', '/wallet')).toEqual({ balance: null });
  await call('POST', '/wallet', { amount: 40 });
  const first = await advance(1);
  const used = await spent(first.from, first.to);
  expect(used).toBeGreaterThan(39);
  expect(used).toBeLessThan(46);
  const second = await advance(1);
  expect(await spent(second.from, second.to)).toBe(0);
  const { balance } = await call<{ balance: number }>('GET', '/wallet');
  expect(balance).toBeCloseTo(40 - used, 2);
  await call('POST', '/wallet', { amount: 30 });
  const third = await advance(1);
  expect(await spent(third.from, third.to)).toBeGreaterThan(20);
});
