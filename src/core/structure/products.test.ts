import { describe, expect, test } from 'vitest';
import { findStructure } from './checks.ts';
import type { StructureAdGroup } from './ground.ts';
import { adGroup, campaign, ground, target } from './structure.fixture.ts';

describe('products that earn unlike an order', () => {
  const sells = (...profits: (number | null)[]) =>
    profits.map((profit, at) => ({
      sku: `P${at}`,
      share: 1 / profits.length,
      price: 20e6,
      profit: profit === null ? null : profit * 1e6,
    }));
  const found = (list: StructureAdGroup['sells']) =>
    findStructure(ground([campaign('Mixed', [adGroup('Mixed', [target({})], { sells: list })])])).filter(
      ({ kind }) => kind === 'unlike_products',
    );

  test('are named with what an order leaves; nobody else can mend it', () => {
    const [one] = found(sells(12.4, 3.1));
    expect(one).toMatchObject({ repair: null, drafts: [], key: 'structure:unlike_products:c-Mixed:g-Mixed' });
    expect(one!.sentence).toContain(
      'Mixed advertises 2 products: P0 leaves 12.40 an order and makes 50 % of its sales',
    );
    expect(one!.sentence).toContain('P1 leaves 3.10');
  });

  test('likes, one product, unknown costs and what hardly sells are left alone', () => {
    expect(found(sells(4, 3))).toEqual([]);
    expect(found(sells(4))).toEqual([]);
    expect(found(sells(4, null))).toEqual([]);
    const rare = [
      { sku: 'A', share: 0.97, profit: 12e6, price: 20e6 },
      { sku: 'B', share: 0.03, profit: 2e6, price: 20e6 },
    ];
    expect(found(rare)).toEqual([]);
  });
});

describe('a collection that takes in what cannot earn', () => {
  const rule = '{"category": "crocks", "price": null, "inStock": false}';
  const member = (sku: string, price: number, profit: number | null, share: number) => ({
    sku,
    price: price * 1e6,
    profit: profit === null ? null : profit * 1e6,
    share,
  });
  // 100 clicks a week at 1.00, one in ten orders, known from 100 orders: an order costs 10.00, and 8.87 at the least
  // (100 / (10 + 1.28 x 1)).
  const costly = target({}, { clicks: 100 });
  const members = [
    member('A', 40, 20, 0.5),
    member('B', 30, 14, 0.3),
    member('C', 10, 4, 0.125),
    member('D', 6, 2, 0.075),
  ];
  const found = (more: Partial<StructureAdGroup> = {}, soldOut: string[] = []) =>
    findStructure(
      ground(
        [
          campaign('Crocks', [
            adGroup('Crocks', [costly], { rule, sells: members, skus: ['A', 'B', 'C', 'D'], ...more }),
          ]),
        ],
        { soldOut: new Set(soldOut) },
      ),
    ).filter(({ kind }) => kind === 'collection');

  test('its rule leaves out what is cheaper than all that earns', () => {
    const [one] = found();
    expect(one!.sentence).toBe(
      'Crocks shows 4 products by its rule “category crocks”. ' +
        'An order there costs 10.00 by ads, 8.86 at the least; C leaves 4.00, D leaves 2.00 before ads.',
    );
    // Between 10 and 30: 20.
    expect(one!.drafts).toMatchObject([
      { entity: 'ad_group', field: 'rule', objectId: 'g-Crocks', oldValue: rule },
    ]);
    expect(JSON.parse(one!.drafts[0]!.newValue!)).toEqual({
      category: 'crocks',
      price: [20, 1e6],
      inStock: false,
    });
    expect(one!.repair).toBe(
      'The rule becomes “category crocks, price 20.00 or more”: 2 products leave, 2 stay',
    );
    // Orders: shares of sales over prices are 1.25, 1, 1.25, 1.25 of 4.75; 10 a week. C loses 6.00, D 8.00 by each.
    expect(one!.worth / 1e6).toBeCloseTo(10 * (1.25 / 4.75) * (6 + 8), 6);
    expect(one!.loses).toContain('53 % of those from here');
  });

  test('what is sold out goes until it is in stock again, alone or with them', () => {
    const [both] = found({}, ['B']);
    expect(both!.sentence).toContain('B is sold out and stays in it.');
    expect(JSON.parse(both!.drafts[0]!.newValue!)).toEqual({
      category: 'crocks',
      price: [20, 1e6],
      inStock: true,
    });
    const [only] = found({ sells: members.slice(0, 2), skus: ['A', 'B'] }, ['B']);
    expect(only).toMatchObject({
      worth: 0,
      loses: 'Nothing until it is in stock again: it comes back by itself.',
    });
    expect(JSON.parse(only!.drafts[0]!.newValue!)).toEqual({
      category: 'crocks',
      price: null,
      inStock: true,
    });
  });

  test('an upper end of its prices stays', () => {
    const [one] = found({ rule: '{"price": [5, 60], "inStock": true}' });
    expect(JSON.parse(one!.drafts[0]!.newValue!)).toEqual({ price: [20, 60], inStock: true });
    expect(one!.repair).toContain('“price 20.00 to 60.00, in stock”');
  });

  test('nothing where products are listed, none loses beyond doubt, prices do not part them, or none would stay', () => {
    expect(found({ rule: null }, ['B'])).toEqual([]);
    expect(found({ sells: members.slice(0, 2), skus: ['A', 'B'] })).toEqual([]);
    // 9.50 lies between what an order costs and what it costs at the least.
    expect(found({ sells: [members[0]!, member('C', 10, 9.5, 0.5)], skus: ['A', 'C'] })).toEqual([]);
    expect(found({ sells: [member('A', 8, 20, 0.5), members[2]!], skus: ['A', 'C'] })).toEqual([]);
    expect(found({ sells: members.slice(2), skus: ['C', 'D'] })).toEqual([]);
    expect(found({ sells: [members[0]!, member('C', 10, null, 0.5)], skus: ['A', 'C'] })).toEqual([]);
    expect(found({ rule: 'no rule' }, ['B'])).toEqual([]);
  });
});
