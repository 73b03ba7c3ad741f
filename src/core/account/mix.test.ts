import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Pool } from '../evidence/pooling.ts';
import { Goals, type SetGoal } from '../goals/goals.ts';
import { micros } from '../metrics/money.ts';
import { judgeTargets } from '../round/judge.ts';
import { account } from '../round/small-account.fixture.ts';
import { marginSold, mixesOf, mixOf, priceSold, type Mix } from './mix.ts';

const goal = (scope: SetGoal['scope'], key: string, targetAcos: number, theta: number): SetGoal => ({
  scope,
  key,
  targetAcos,
  theta,
  bidFloor: null,
  bidCeiling: null,
});
const mix: Mix = [
  { sku: 'LID', share: 0.75 },
  { sku: 'POT', share: 0.25 },
];
const place = { adGroupId: '2', campaignId: 'c2', sku: 'LID' };

describe('what an ad group of several products really sells', () => {
  test('by hand: five orders of an even split beside what was sold', () => {
    // 5 orders even over two: 2.5 x 10 and 2.5 x 40 beside 75 and 0: 100 and 100.
    const even = mixOf([
      { sku: 'a', price: 10, sales: 75 },
      { sku: 'b', price: 40, sales: 0 },
    ]);
    expect(even).toEqual([
      { sku: 'a', share: 0.5 },
      { sku: 'b', share: 0.5 },
    ]);
    // Without a price it counts as the others do.
    expect(
      mixOf([
        { sku: 'a', price: 10, sales: 0 },
        { sku: 'b', price: null, sales: 50 },
      ]),
    ).toEqual([
      { sku: 'b', share: 0.75 },
      { sku: 'a', share: 0.25 },
    ]);
    expect(mixOf([{ sku: 'a', price: 10, sales: 75 }])).toBeNull();
  });

  test('shares are 1 together and none is left out', () => {
    const product = fc.record({
      sku: fc.string(),
      price: fc.option(fc.nat({ max: 1000 }), { nil: null }),
      sales: fc.nat({ max: 1_000_000 }),
    });
    fc.assert(
      fc.property(fc.array(product, { minLength: 2, maxLength: 9 }), (products) => {
        const shares = mixOf(products)!.map(({ share }) => share);
        expect(shares).toHaveLength(products.length);
        expect(shares.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
        expect(Math.min(...shares)).toBeGreaterThan(0);
      }),
    );
  });

  test('rows by ad group; margin and price of an order by what is sold', () => {
    const mixes = mixesOf([
      { adGroupId: '2', sku: 'LID', price: 20, sales: 1000 },
      { adGroupId: '2', sku: 'POT', price: 60, sales: 200 },
      { adGroupId: '3', sku: 'LID', price: 20, sales: 1000 },
    ]);
    expect([...mixes.keys()]).toEqual(['2']);
    const margins: Record<string, number> = { LID: 0.4, POT: 0.2 };
    const marginOf = (sku: string) => margins[sku] ?? null;
    expect(marginSold(place, marginOf, new Map([['2', mix]]))).toBeCloseTo(0.35, 9);
    expect(marginSold(place, marginOf)).toBe(0.4);
    expect(marginSold(place, (sku) => (sku === 'LID' ? 0.4 : null), new Map([['2', mix]]))).toBeNull();
    const product = (sku: string, price: number) => [sku, { sku, title: sku, price, margin: null }] as const;
    const products = new Map([product('LID', 20), product('POT', 60)]);
    // 100 of sales are 75 / 20 + 25 / 60 = 4.1667 orders: 24.00 each.
    expect(priceSold(place, products, new Map([['2', mix]]))).toBeCloseTo(24, 9);
    expect(priceSold(place, new Map([product('LID', 20)]), new Map([['2', mix]]))).toBe(0);
    expect(priceSold(place, products)).toBe(20);
  });
});

describe('goals by what is sold', () => {
  const set = [goal('account', '', 0.26, 0.4), goal('product', 'POT', 0.1, 0.2)];

  test('target and theta are the mean by sales, all else is of what sells most', () => {
    const goals = new Goals(set, undefined, undefined, new Map([['2', mix]]));
    // 0.75 x 0.26 + 0.25 x 0.10 = 0.22; 0.75 x 0.4 + 0.25 x 0.2 = 0.35.
    const found = goals.of(place);
    expect(found.targetAcos).toBeCloseTo(0.22, 9);
    expect(found.theta).toBeCloseTo(0.35, 9);
    expect({ scope: found.scope, key: found.key }).toEqual({ scope: 'account', key: '' });
    expect(goals.of({ ...place, adGroupId: '3' }).targetAcos).toBe(0.26);
  });

  test('one goal for all of them stays that one; a goal of the ad group itself rules', () => {
    const alike = new Goals([set[0]!], undefined, undefined, new Map([['2', mix]]));
    expect(alike.of(place)).toMatchObject({ targetAcos: 0.26, theta: 0.4 });
    const own = new Goals(
      [...set, goal('ad_group', '2', 0.5, 0.7)],
      undefined,
      undefined,
      new Map([['2', mix]]),
    );
    expect(own.of(place).targetAcos).toBeCloseTo(0.5, 9);
    expect(own.of(place).theta).toBeCloseTo(0.7, 9);
  });

  test('a margin as the goal is met by each of them', () => {
    const margins: Record<string, number> = { LID: 0.5, POT: 0.3 };
    const byMargin: SetGoal = { ...goal('account', '', 0.26, 0.4), objective: 'profit' };
    const goals = new Goals([byMargin], undefined, (sku) => margins[sku] ?? null, new Map([['2', mix]]));
    expect(goals.of(place).targetAcos).toBeCloseTo(0.75 * 0.5 + 0.25 * 0.3, 9);
  });

  test('bids follow: what sells for less a unit of money may cost less', () => {
    const base = { ...account(), goals: set };
    const bids = (mixes?: Map<string, Mix>) =>
      new Map(
        judgeTargets({ ...base, ...(mixes ? { mixes } : {}) }, 1000).findings.map((found) => [
          found.targetId,
          found.working,
        ]),
      );
    const inGroup = base.targets.filter(({ adGroupId }) => adGroupId === '2').map(({ targetId }) => targetId);
    const [alone, mixed] = [bids(), bids(new Map([['2', mix]]))];
    const both = inGroup.filter((id) => alone.has(id) && mixed.has(id));
    expect(both.length).toBeGreaterThan(0);
    for (const id of both) {
      expect(mixed.get(id)!.theta).toBeCloseTo(0.35, 9);
      expect(alone.get(id)!.theta).toBe(0.4);
      expect(mixed.get(id)!.mix).toEqual(mix);
    }
  });

  test('value per order begins at what an order of them is', () => {
    const products = new Map([
      ['LID', { sku: 'LID', title: '', price: micros(20), margin: null }],
      ['POT', { sku: 'POT', title: '', price: micros(60), margin: null }],
    ]);
    const group = account().adGroups.get('2')!;
    const model = { drift: 0, valueWeight: 3 };
    const value = (mixes?: Map<string, Mix>) => {
      const pool = new Pool(products, model, mixes);
      pool.add(group, { n: 10, y: 0, seenClicks: 10, seenOrders: 0, seenSales: 0 });
      return pool.of(group).value.mean;
    };
    expect(value()).toBeCloseTo(micros(20), 3);
    expect(value(new Map([['2', mix]]))).toBeCloseTo(micros(24), 3);
  });
});
