import type { AdGroupInfo } from '../account/rows.ts';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { addSibling, noSiblings } from './siblings.ts';
import { Pool, type LevelSays } from './pooling.ts';

const adGroup = (id: string, campaignId: string, sku: string | null): AdGroupInfo => ({
  adGroupId: id,
  name: id,
  campaignId,
  campaign: campaignId,
  automatic: false,
  sku,
  enabled: true,
  archived: false,
  modifier: 1,
});
const row = (n: number, y: number, price = 20) => ({
  n,
  y,
  seenClicks: n,
  seenOrders: y,
  seenSales: micros(y * price),
});
const prices = new Map([['LID', { sku: 'LID', title: 'Lids', price: micros(20), margin: 0.5 }]]);

describe('pooling', () => {
  test('an ad group keeps its own mean, shrunk to its campaign, product and account', () => {
    const pool = new Pool(prices);
    const wide = adGroup('wide', 'c1', 'LID');
    const narrow = adGroup('narrow', 'c2', 'LID');
    for (const y of [2, 4, 10, 16, 18]) pool.add(wide, row(100, y));
    for (let i = 0; i < 5; i++) pool.add(narrow, row(10, 0));
    const { prior, levels } = pool.of(narrow);
    expect(levels.map(({ level }) => level)).toEqual(['account', 'product', 'campaign', 'ad group']);
    const [account, product, campaign, own] = levels as [LevelSays, LevelSays, LevelSays, LevelSays];
    expect(account.mu).toBeCloseTo(account.sold / account.telling, 10);
    expect(account.weight).toBe(0);
    // Each level by hand: (b mu' + orders) / (b + clicks), of what tells of it.
    for (const [above, level] of [
      [account, product],
      [product, campaign],
      [campaign, own],
    ] as const)
      expect(level.mu).toBeCloseTo(
        (level.weight * above.mu + level.sold) / (level.weight + level.telling),
        10,
      );
    expect(own.sold).toBe(0);
    // Of 50 clicks in five rows, each tells what is left of 10 once a row has been allowed to differ.
    const b = prior.strength;
    expect(own.telling).toBeCloseTo((5 * (10 * b)) / (10 + b), 0);
    expect(own.mu).toBeLessThan(campaign.mu);
    expect(prior.mu).toBe(own.mu);
  });

  test('a level that spoke with many rows keeps what it said; one row alone does not speak for all', () => {
    const pool = new Pool(prices);
    const [good, bad] = [adGroup('good', 'c1', 'LID'), adGroup('bad', 'c2', 'LID')];
    for (let i = 0; i < 100; i++) {
      pool.add(good, row(40, 8));
      pool.add(bad, row(40, i < 40 ? 1 : 0));
    }
    expect(pool.of(good).prior.mu).toBeGreaterThan(0.19);
    expect(pool.of(bad).prior.mu).toBeLessThan(0.012);
    const lonely = new Pool(prices);
    lonely.add(good, row(4000, 800));
    for (let i = 0; i < 100; i++) lonely.add(bad, row(40, i < 40 ? 1 : 0));
    const { mu } = lonely.of(good).prior;
    expect(mu).toBeGreaterThan(0.02);
    expect(mu).toBeLessThan(0.19);
  });

  test('rows summed before count like rows', () => {
    const one = new Pool(prices);
    const two = new Pool(prices);
    const lids = adGroup('lids', 'c1', 'LID');
    const siblings = noSiblings();
    for (const y of [0, 0, 1, 3]) {
      one.add(lids, row(20, y));
      addSibling(siblings, 20, y, 20, y);
    }
    two.addQuiet(lids, { terms: 4, siblings, orders: 4, sales: micros(80) });
    expect(two.of(lids)).toEqual(one.of(lids));
  });

  test('drift is handed down with the prior', () => {
    const lids = adGroup('lids', 'c1', 'LID');
    expect(new Pool(prices, { drift: 0.02, valueWeight: 16 }).of(lids).prior.drift).toBe(0.02);
  });

  test('values start at the price and move with orders, here three weighing as much as the parent', () => {
    const pool = new Pool(prices, { drift: 0, valueWeight: 3 });
    const lids = adGroup('lids', 'c1', 'LID');
    expect(new Pool(prices).of(lids).value).toEqual({ mean: micros(20), weight: 16 });
    pool.add(lids, row(100, 3, 40));
    // Product: (3 x 20 + 120) / 6 = 30; campaign 35; ad group 37.50.
    expect(pool.of(lids).value).toEqual({ mean: micros(37.5), weight: 3 });
  });

  test('a product without a price starts at the account’s average order', () => {
    const pool = new Pool(new Map());
    const unknown = adGroup('u', 'c', null);
    pool.add(unknown, row(100, 4, 25));
    expect(pool.of(unknown).value.mean).toBe(micros(25));
  });
});
