import { randomLcg, randomPoisson, randomNormal } from 'd3';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { outcomeOf, type SideSums } from './outcome.ts';

const side = (clicks: number, spend: number, orders: number, sales: number): SideSums => ({
  clicks,
  spend: micros(spend),
  orders,
  sales: micros(sales),
});
const steady = { before: 100_000, after: 100_000 };

describe('whether a change worked', () => {
  test('gain against the goal, after less before, a week', () => {
    const { before, after, change, verdict } = outcomeOf(
      side(200, 100, 8, 200),
      side(120, 60, 8, 190),
      2,
      0.3,
      steady,
      micros(25),
    );
    // 0.3 x 200 - 100 = -40 and 0.3 x 190 - 60 = -3, over two weeks.
    expect([before, after, change].map((value) => value / 1e6)).toEqual([-20, -1.5, 18.5]);
    // Sixteen orders may have come otherwise.
    expect(verdict).toBe('undecided');
  });

  test('what fell with everything else is no harm', () => {
    const was = side(4000, 1000, 400, 8000);
    const half = side(2000, 500, 200, 4000);
    expect(outcomeOf(was, half, 1, 0.3, { before: 1e6, after: 5e5 }, 0).verdict).toBe('undecided');
    expect(outcomeOf(was, half, 1, 0.3, { before: 1e6, after: 1e6 }, 0).verdict).toBe('worse');
  });

  test('without a whole settled week it is too early', () => {
    expect(outcomeOf(side(9, 9, 0, 0), side(0, 0, 0, 0), 0, 0.3, steady, 0).verdict).toBe('too early');
  });

  test('few clicks decide nothing', () => {
    const { verdict, low, high } = outcomeOf(
      side(6, 3, 0, 0),
      side(5, 2.5, 1, 25),
      1,
      0.3,
      steady,
      micros(25),
    );
    expect(verdict).toBe('undecided');
    expect(low).toBeLessThan(0);
    expect(high).toBeGreaterThan(0);
  });

  test('a blocked waste is better by what it spent', () => {
    const { change, verdict } = outcomeOf(side(80, 40, 0, 0), side(0, 0, 0, 0), 4, 0.3, steady, micros(20));
    expect(change).toBeCloseTo(micros(10), 0);
    expect(verdict).toBe('better');
  });
});

/**
 * Hidden truth: thousands of changes whose effect is known, on markets that drift, seen through Poisson clicks and
 * orders. The interval must hold the truth in about 80 of 100, and a verdict must rarely be wrong.
 */
test('of changes with a known effect, 80 % intervals hold it in 76 to 92 %, and verdicts are right', () => {
  const random = randomLcg(0.37);
  const poisson = (mean: number) => (mean > 0 ? randomPoisson.source(random)(mean)() : 0);
  const drift = randomNormal.source(random)(0, 0.1);
  const [goal, cpc, value] = [0.3, 0.5, 25];
  let [inside, told, wrong] = [0, 0, 0];
  const count = 4000;
  for (let i = 0; i < count; i++) {
    const weeks = 1 + Math.floor(random() * 4);
    const clicks = 10 * 20 ** random();
    const rate = 0.01 + 0.09 * random();
    const trend = Math.exp(drift());
    const [more, dearer] = [0.3 + 1.4 * random(), 0.7 + 0.6 * random()];
    const weekly = (number: number, price: number) => goal * number * rate * value - number * price;
    const truth = weekly(clicks * trend * more, cpc * dearer) - weekly(clicks, cpc) * trend;
    const seen = (number: number, price: number): SideSums => {
      const n = poisson(number * weeks);
      const orders = poisson(n * rate);
      const sales = Array.from({ length: orders }, () => value * (0.6 + 0.8 * random()));
      return side(
        n,
        n * price,
        orders,
        sales.reduce((a, b) => a + b, 0),
      );
    };
    const siblings = { before: poisson(3000 * weeks), after: poisson(3000 * weeks * trend) };
    const { low, high, verdict } = outcomeOf(
      seen(clicks, cpc),
      seen(clicks * trend * more, cpc * dearer),
      weeks,
      goal,
      siblings,
      micros(value),
    );
    if (low <= micros(truth) && micros(truth) <= high) inside++;
    if (verdict === 'better' || verdict === 'worse') {
      told++;
      if (truth > 0 !== (verdict === 'better')) wrong++;
    }
  }
  expect(inside / count).toBeGreaterThan(0.76);
  expect(inside / count).toBeLessThan(0.92);
  expect(told / count).toBeGreaterThan(0.05);
  expect(wrong / told).toBeLessThan(0.1);
});
