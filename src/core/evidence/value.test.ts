import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { learnValueWeight, usualValueWeight, valuePerOrder, type SoldRow } from './value.ts';

test('value per order: siblings count for so many orders of its own', () => {
  // (3 x 20 + 90) / (3 + 3), and (16 x 20 + 90) / (16 + 3).
  expect(valuePerOrder({ mean: micros(20), weight: 3 }, micros(90), 3)).toBe(micros(25));
  expect(valuePerOrder({ mean: micros(20), weight: 16 }, micros(90), 3)).toBeCloseTo(micros(410 / 19), 0);
  expect(valuePerOrder({ mean: micros(20), weight: 3 }, 0, 0)).toBe(micros(20));
});

test('a value lies between what siblings and its own orders say', () => {
  const amount = fc.double({ min: 0.01, max: 1e4, noNaN: true });
  fc.assert(
    fc.property(amount, amount, fc.integer({ min: 1, max: 500 }), amount, (mean, own, orders, weight) => {
      const value = valuePerOrder({ mean, weight }, own * orders, orders);
      expect(value).toBeGreaterThanOrEqual(Math.min(mean, own) * (1 - 1e-12));
      expect(value).toBeLessThanOrEqual(Math.max(mean, own) * (1 + 1e-12));
    }),
  );
});

/** Even draws that repeat. */
function drawing(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 16_807) % 2_147_483_647) / 2_147_483_647;
}

/** Rows of forty ad groups: orders of price 20, one in ten taken twice, and what rows differ by. */
function sold(apart: number, draw: () => number): SoldRow[] {
  return Array.from({ length: 400 }, (_, i) => {
    const own = 1 + apart * Math.sqrt(3) * (2 * draw() - 1);
    const orders = 1 + Math.floor(draw() ** 2 * 30);
    let sales = 0;
    for (let order = 0; order < orders; order++) sales += micros(20 * own * (draw() < 0.1 ? 2 : 1));
    return { group: i % 40, orders, sales };
  });
}

describe('for how many orders siblings count', () => {
  // Variance of one order over its mean squared: 0.1 x 0.9 / 1.1^2 = 0.0744.
  test.each([
    [0.3, 0.0744 / 0.09, 2.5],
    [0.15, 0.0744 / 0.0225, 1.6],
    [0.08, 0.0744 / 0.0064, 1.6],
  ])('rows that differ by %f: k of %f within a factor of %f', (apart, truth, factor) => {
    for (const seed of [7, 77, 777]) {
      const found = learnValueWeight(sold(apart, drawing(seed)));
      expect(found / truth).toBeGreaterThan(1 / factor);
      expect(found / truth).toBeLessThan(factor);
    }
  });

  test('rows that do not differ: far more than before anything was told', () => {
    for (const seed of [7, 77, 777])
      expect(learnValueWeight(sold(0, drawing(seed)))).toBeGreaterThan(2 * usualValueWeight);
  });

  test('nothing to tell it from: as it was', () => {
    const row = (group: number, orders: number, sales: number) => ({ group, orders, sales: micros(sales) });
    expect(learnValueWeight([])).toBe(usualValueWeight);
    expect(learnValueWeight([row(1, 3, 60), row(2, 1, 90)])).toBe(usualValueWeight);
    expect(learnValueWeight([row(1, 3, 60), row(1, 1, 20), row(1, 0, 0)])).toBe(usualValueWeight);
    expect(learnValueWeight([row(1, 3, 0), row(1, 1, 0)])).toBe(usualValueWeight);
  });
});
