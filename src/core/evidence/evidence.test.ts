import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { below, mean, quantileOf } from './gamma.ts';
import { addSibling, gammaOf, noMoments, posterior, priorOf, valuePerOrder, type Prior } from './prior.ts';
import {
  acosInterval,
  chanceOfNoOrder,
  clicksForAnOrder,
  clicksToKnow,
  probabilityOver,
  revenue,
  verdictOf,
} from './verdict.ts';

describe('the worked example of the guide', () => {
  // Siblings at 0.10 with b = 40; 30 clicks, no order; value 25.00; target 30 %.
  const prior: Prior = { mu: 0.1, strength: 40 };
  const gamma = posterior(prior, 30, 0);

  test('posterior Gamma(4, 70), mean 0.0571, revenue per click 1.43, 0.43 a click at target', () => {
    expect(gammaOf(prior)).toEqual({ shape: 4, rate: 40 });
    expect(gamma).toEqual({ shape: 4, rate: 70 });
    expect(mean(gamma)).toBeCloseTo(0.0571, 4);
    const rpc = revenue({ gamma, value: micros(25), cpc: null });
    expect(rpc / 1e6).toBeCloseTo(1.43, 2);
    expect((rpc * 0.3) / 1e6).toBeCloseTo(0.43, 2);
  });

  test('an average row shows no order in 30 clicks with 5 %; 23 clicks are needed for 90 %', () => {
    expect(chanceOfNoOrder(0.1, 30)).toBeCloseTo(0.0498, 4);
    expect(clicksForAnOrder(0.1)).toBeCloseTo(23);
  });
});

describe('gamma', () => {
  test('an exponential by hand: shape 1, rate 2', () => {
    expect(below({ shape: 1, rate: 2 }, 0.5)).toBeCloseTo(1 - Math.exp(-1), 10);
    expect(quantileOf({ shape: 1, rate: 2 }, 0.5)).toBeCloseTo(Math.log(2) / 2, 8);
    expect(below({ shape: 1, rate: 2 }, 0)).toBe(0);
    expect(below({ shape: 1, rate: 2 }, Infinity)).toBe(1);
  });
});

describe('priors by moments', () => {
  const pool = (rows: [number, number][]) => {
    const moments = noMoments();
    for (const [n, y] of rows) addSibling(moments, n, y);
    return moments;
  };

  test('by hand: five siblings of 100 clicks with 2, 4, 10, 16, 18 orders', () => {
    // mu 0.1; spread 64+36+0+36+64 = 200, less 50, over 5 x 10,000: s2 = 0.003; b = 33.3.
    const prior = priorOf(
      pool([
        [100, 2],
        [100, 4],
        [100, 10],
        [100, 16],
        [100, 18],
      ]),
      null,
    );
    expect(prior.mu).toBeCloseTo(0.1);
    expect(prior.strength).toBeCloseTo(0.1 / 0.003);
  });

  test('few siblings or no spread: the level above, weighing 500 clicks', () => {
    const above = { mu: 0.08, strength: 60 };
    expect(
      priorOf(
        pool([
          [100, 30],
          [100, 0],
        ]),
        above,
      ),
    ).toEqual({ mu: 0.08, strength: 500 });
    const even = Array.from({ length: 8 }, (): [number, number] => [100, 10]);
    expect(priorOf(pool(even), above)).toEqual({ mu: 0.08, strength: 500 });
  });

  test('a level is shrunk to the one above by its strength', () => {
    const rows: [number, number][] = [
      [100, 2],
      [100, 4],
      [100, 10],
      [100, 16],
      [100, 18],
    ];
    expect(priorOf(pool(rows), { mu: 0.05, strength: 500 }).mu).toBeCloseTo((50 + 25) / 1000);
  });

  test('an account without an order does not divide by zero', () => {
    const prior = priorOf(pool([[40, 0]]), null);
    expect(prior.mu).toBeCloseTo(0.5 / 50);
  });

  test('decay of orders does not hide their spread', () => {
    const full = noMoments();
    for (const orders of [2, 4, 10, 16, 18]) addSibling(full, 50, orders / 2, 100, orders);
    expect(priorOf(full, null).strength).toBeCloseTo(0.1 / 0.003);
  });

  test('strength stays within 10 and 500 clicks', () => {
    const rows = fc.array(fc.tuple(fc.integer({ min: 1, max: 500 }), fc.nat(60)), {
      minLength: 1,
      maxLength: 40,
    });
    fc.assert(
      fc.property(rows, (list) => {
        const { mu, strength } = priorOf(pool(list), { mu: 0.1, strength: 50 });
        expect(mu).toBeGreaterThan(0);
        expect(strength).toBeGreaterThanOrEqual(10);
        expect(strength).toBeLessThanOrEqual(500);
      }),
    );
  });

  test('value per order: three orders at the parent’s value', () => {
    expect(valuePerOrder(micros(20), micros(90), 3)).toBe(micros(25));
    expect(valuePerOrder(micros(20), 0, 0)).toBe(micros(20));
  });
});

describe('laws', () => {
  const some = fc.record({
    mu: fc.double({ min: 0.005, max: 0.4, noNaN: true }),
    strength: fc.double({ min: 10, max: 500, noNaN: true }),
    n: fc.double({ min: 0.5, max: 3000, noNaN: true }),
    y: fc.nat(300),
  });

  test('the posterior mean lies between prior and data', () => {
    fc.assert(
      fc.property(some, ({ mu, strength, n, y }) => {
        const at = mean(posterior({ mu, strength }, n, y));
        expect(at).toBeGreaterThanOrEqual(Math.min(mu, y / n) - 1e-12);
        expect(at).toBeLessThanOrEqual(Math.max(mu, y / n) + 1e-12);
      }),
    );
  });

  test('a dearer click is never less likely over target, and the interval holds its middle', () => {
    fc.assert(
      fc.property(some, fc.integer({ min: 50_000, max: 3_000_000 }), ({ mu, strength, n, y }, cpc) => {
        const belief = { gamma: posterior({ mu, strength }, n, y), value: micros(25), cpc };
        const over = probabilityOver(belief, 0.3)!;
        expect(probabilityOver({ ...belief, cpc: cpc * 1.2 }, 0.3)!).toBeGreaterThanOrEqual(over - 1e-9);
        const { low, middle, high } = acosInterval(belief)!;
        expect(low).toBeLessThanOrEqual(middle);
        // The mean of a very unsure belief may lie beyond its 90 % quantile's partner, never below the low end.
        expect(high).toBeGreaterThanOrEqual(low);
      }),
    );
  });

  test('verdicts', () => {
    expect([0.2, 0.21, 0.79, 0.8, null].map(verdictOf)).toEqual([
      'under',
      'undecided',
      'undecided',
      'over',
      'undecided',
    ]);
  });

  test('as many clicks as asked for do decide', () => {
    const prior = { mu: 0.1, strength: 40 };
    const belief = { gamma: posterior(prior, 12, 1), value: micros(25), cpc: micros(0.55) };
    expect(verdictOf(probabilityOver(belief, 0.3))).toBe('undecided');
    const more = clicksToKnow(prior, 12, 1, belief, 0.3)!;
    const rate = mean(belief.gamma);
    const at = (clicks: number) =>
      verdictOf(probabilityOver({ ...belief, gamma: posterior(prior, 12 + clicks, 1 + rate * clicks) }, 0.3));
    expect(at(more)).not.toBe('undecided');
    expect(at(more - 1)).toBe('undecided');
  });
});
