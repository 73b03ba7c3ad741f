import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { byStanding, readCategoryTarget, standingOf } from './pages.ts';
import { alikeGroups, sharing } from './profit.ts';
import { seasonOf, seasonSaid } from '../metrics/season.ts';

describe('profit per order', () => {
  const products = [
    { sku: 'A', profit: 10_000_000 },
    { sku: 'B', profit: 30_000_000 },
    { sku: 'C', profit: 9_000_000 },
    { sku: 'D', profit: null },
  ];

  test('products of like profit share, unknown ones stay alone', () => {
    expect(alikeGroups(products)).toEqual([['B'], ['A', 'C'], ['D']]);
    expect(sharing(products, 'alike').map(({ skus }) => skus)).toEqual([['A', 'C'], ['B'], ['D']]);
    expect(sharing(products, 'alike').every(({ warning }) => warning === null)).toBe(true);
    expect(sharing(products, 'apart')).toHaveLength(4);
    expect(sharing([], 'all')).toEqual([]);
  });

  test('all in one is warned of, with what an order may cost and the sets that would do', () => {
    const [all] = sharing(products, 'all');
    expect(all!.skus).toEqual(['A', 'B', 'C', 'D']);
    expect(all!.warning).toBe(
      'These products earn unequal profit per order, so that no bid is right for all. An order may cost: A 10.00, ' +
        'B 30.00, C 9.00, D unknown. In 3 sets of like profit: B; A with C; D.',
    );
  });

  test('whatever the profits, in no set does one pay more than a quarter above another', () => {
    const list = fc.array(fc.integer({ min: 1, max: 1000 }), { minLength: 1, maxLength: 30 });
    fc.assert(
      fc.property(list, (profits) => {
        const all = profits.map((profit, at) => ({ sku: String(at), profit }));
        const groups = alikeGroups(all);
        expect(groups.flat().sort()).toEqual(all.map(({ sku }) => sku).sort());
        for (const skus of groups) {
          const own = skus.map((sku) => profits[Number(sku)]!);
          expect(Math.max(...own)).toBeLessThanOrEqual(1.25 * Math.min(...own));
        }
      }),
    );
  });
});

describe('seasons', () => {
  const days = (count: number, units: number) => Array.from({ length: count }, () => units);

  test('four weeks far above four others are one, with the day it began', () => {
    const season = seasonOf('2026-01-01', [...days(40, 2), ...days(28, 10), ...days(40, 2)])!;
    expect(season).toEqual({ high: 70, low: 14, from: '2026-02-10', isOver: true });
    expect(seasonSaid(season)).toBe('It had 70 orders a week from 2026-02-10, and 14 in the last four weeks');
    expect(seasonOf('2026-01-01', [...days(40, 2), ...days(28, 10)])).toMatchObject({ isOver: false });
  });

  test('is over once a quarter is left', () => {
    const then = (units: number) => seasonOf('2026-01-01', [...days(40, 8), ...days(40, units)]);
    expect([then(2)!.isOver, then(3)!.isOver, then(5)]).toEqual([true, false, null]);
  });

  test('an empty shelf is no season: days out of stock tell nothing', () => {
    const empty = Array.from({ length: 40 }, () => null);
    expect(seasonOf('2026-01-01', [...days(60, 8), ...empty])).toBeNull();
    expect(seasonOf('2026-01-01', [...days(60, 8), ...days(40, 0)])).toMatchObject({ isOver: true });
    // A week without stock in a steady product.
    expect(seasonOf('2026-01-01', [...days(60, 8), ...empty.slice(0, 7), ...days(40, 8)])).toBeNull();
  });

  test('few units, or few weeks, tell of none', () => {
    expect(seasonOf('2026-01-01', days(200, 5))).toBeNull();
    expect(seasonOf('2026-01-01', days(55, 5))).toBeNull();
    // 8 against 4 in four weeks happens by itself.
    const few = Array.from({ length: 120 }, (_, at) =>
      at < 60 ? (at % 7 === 0 ? 1 : 0) : at % 4 === 0 ? 1 : 0,
    );
    expect(seasonOf('2026-01-01', few)).toBeNull();
  });

  test('steady sales are rarely taken for a season', () => {
    let seed = 7;
    const random = () => (seed = (seed * 48271) % 2147483647) / 2147483647;
    const poisson = (mean: number) => {
      let [count, product] = [0, random()];
      for (; product > Math.exp(-mean); product *= random()) count++;
      return count;
    };
    const found = Array.from({ length: 200 }, () =>
      seasonOf(
        '2026-01-01',
        Array.from({ length: 180 }, () => poisson(1.5)),
      ),
    ).filter((season) => season !== null);
    expect(found.length).toBeLessThanOrEqual(2);
  });
});

describe('pages', () => {
  const ours = { price: 40_000_000, rating: 4.5 };

  test('dearer and worse rated pages come first, with the reason', () => {
    const pages = [
      { price: 41_000_000, rating: 4.5 },
      { price: 60_000_000, rating: 4.6 },
      { price: 44_000_000, rating: 3 },
      { price: 30_000_000, rating: null },
    ].map((page) => standingOf(page, ours));
    expect([...pages].sort(byStanding).map(({ why }) => why)).toEqual([
      '50 % dearer than ours, rated 4.6 against 4.5',
      '10 % dearer than ours, rated 3.0 against 4.5',
      '2.5 % dearer than ours, rated alike',
      '25 % cheaper than ours',
    ]);
    expect(standingOf({ price: 40_100_000, rating: 4.52 }, ours).why).toBe('at our price, rated alike');
  });

  test('category targets are read however they are narrowed', () => {
    expect(readCategoryTarget('jars')).toEqual({
      category: 'jars',
      priceFrom: null,
      ratingTo: null,
      brand: null,
    });
    expect(readCategoryTarget('jars, rating 3-4.2, brand Two Words, price 10-20')).toEqual({
      category: 'jars',
      priceFrom: 10,
      ratingTo: 4.2,
      brand: 'Two Words',
    });
  });
});
