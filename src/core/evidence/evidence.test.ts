import { randomGamma, randomLcg, randomPoisson } from 'd3';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { below, mean, quantileOf } from './gamma.ts';
import { gammaOf, lnLikelihood, posterior, priorOf, strengthOf, usualStrength, type Prior } from './prior.ts';
import { addSibling, addSiblings, addTally, noSiblings, tallyOf } from './siblings.ts';
import {
  acosInterval,
  chanceOfNoOrder,
  clicksForAnOrder,
  clicksToKnow,
  probabilityOver,
  revenue,
  verdictOf,
} from './verdict.ts';

describe('the worked example of the domain', () => {
  // Siblings at 0.10 with b = 40; 30 clicks, no order; value 25.00; target 30 %.
  const prior: Prior = { mu: 0.1, strength: 40, doubt: 0 };
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

/** Siblings of clicks and orders, unweighted. */
const pool = (rows: [clicks: number, orders: number][]) => {
  const siblings = noSiblings();
  for (const [n, y] of rows) addSibling(siblings, n, y, n, y);
  return siblings;
};

describe('priors by likelihood', () => {
  test('a level’s mean by hand: 50 orders from 500 clicks, shrunk to 0.05 that weighs 500', () => {
    const rows = [2, 4, 10, 16, 18].map((orders): [number, number] => [100, orders]);
    expect(priorOf(pool(rows), null).mu).toBeCloseTo(0.1);
    const above = { mu: 0.05, strength: 500, doubt: 0 };
    expect(priorOf(pool(rows), above).mu).toBeCloseTo((500 * 0.05 + 50) / (500 + 500));
  });

  test('two siblings speak for themselves: their mean is kept whatever their number', () => {
    const above = { mu: 0.08, strength: 60, doubt: 0 };
    const rows: [number, number][] = [
      [3000, 900],
      [3000, 0],
    ];
    const prior = priorOf(pool(rows), above);
    expect(prior.mu).toBeCloseTo((60 * 0.08 + 900) / (60 + 6000));
    // One sells with 30 % and one never: nothing alike, so b falls as far as its own prior lets it.
    expect(prior.strength).toBeLessThan(20);
  });

  test('the likelihood by hand: of one click at mu 0.5 and b 2, no order has chance 2/3, one order 2/9', () => {
    // Shape b mu = 1: P(0) = 2 / 3, P(1) = 2/3 x 1/3; y ln n and ln y! are 0.
    const tally = tallyOf(pool([[1, 1]]));
    expect(Math.exp(lnLikelihood(tally, 0.5, 2))).toBeCloseTo((2 / 3) * (1 / 3), 10);
    expect(Math.exp(lnLikelihood(tallyOf(pool([[1, 0]])), 0.5, 2))).toBeCloseTo(2 / 3, 10);
  });

  test('alike siblings weigh much, unlike ones little; nothing is said by none', () => {
    const alike = Array.from({ length: 60 }, (): [number, number] => [100, 10]);
    const unlike = Array.from({ length: 60 }, (_, i): [number, number] => [100, i % 2 === 0 ? 20 : 0]);
    expect(priorOf(pool(alike), null).strength).toBeGreaterThan(150);
    expect(priorOf(pool(unlike), null).strength).toBeLessThan(20);
    expect(strengthOf(tallyOf(pool([])), 0.1, null)).toBeCloseTo(usualStrength);
    expect(strengthOf(tallyOf(pool([])), 0.1, 77)).toBeCloseTo(77);
  });

  test('finds the strength that counts were drawn with, within its prior', () => {
    const random = randomLcg(0.42);
    const rate = randomGamma.source(random);
    const rows = Array.from({ length: 600 }, (): [number, number] => {
      const lambda = rate(0.1 * 25)() / 25;
      return [80, randomPoisson.source(random)(80 * lambda)()];
    });
    const { strength } = priorOf(pool(rows), null);
    expect(strength).toBeGreaterThan(18);
    expect(strength).toBeLessThan(35);
  });

  test('sums per distinct counts: a thousand equal rows are one pair, and say what a thousand rows say', () => {
    const rows = Array.from({ length: 1000 }, (): [number, number] => [7, 1]);
    const one = pool(rows);
    expect(one.tally.size).toBe(1);
    const summed = noSiblings();
    addTally(summed, 7, 1, 1000);
    expect([...summed.tally]).toEqual([...one.tally]);
    const twice = noSiblings();
    addSiblings(twice, one);
    addSiblings(twice, one);
    expect(tallyOf(twice).rows[0]).toBe(2000);
    expect(twice.n).toBe(14_000);
  });

  test('an account without an order does not divide by zero', () => {
    const prior = priorOf(pool([[40, 0]]), null);
    expect(prior.mu).toBeCloseTo(0.5 / 50);
    expect(Number.isFinite(prior.strength)).toBe(true);
  });

  test('decayed orders make the mean, plain counts the strength', () => {
    const faded = noSiblings();
    for (const orders of [2, 4, 10, 16, 18]) addSibling(faded, 50, orders / 2, 100, orders);
    const plain = pool([2, 4, 10, 16, 18].map((orders): [number, number] => [100, orders]));
    expect(priorOf(faded, null).strength).toBeCloseTo(priorOf(plain, null).strength);
  });

  test('what a level does not know of its mean widens its rows, and leaves their mean', () => {
    const sure = { mu: 0.1, strength: 40, doubt: 0 };
    const unsure = { ...sure, doubt: 0.25 };
    // Shape 4 + 1, rate 40 + 10; wider by 1 + 0.25 x 16 / 5 = 1.8.
    const gamma = posterior(unsure, 10, 1);
    expect(gamma.shape).toBeCloseTo(5 / 1.8);
    expect(gamma.rate).toBeCloseTo(50 / 1.8);
    expect(mean(gamma)).toBeCloseTo(mean(posterior(sure, 10, 1)));
  });

  test('a row that drifts is known less well: variance grows by drift x mean squared', () => {
    const gamma = posterior({ mu: 0.1, strength: 40, doubt: 0, drift: 0.04 }, 360, 36);
    const variance = (g: { shape: number; rate: number }) => g.shape / g.rate ** 2;
    expect(mean(gamma)).toBeCloseTo(0.1);
    expect(variance(gamma)).toBeCloseTo(variance({ shape: 40, rate: 400 }) + 0.04 * 0.01);
  });

  test('a level of few orders doubts its mean more than one of many', () => {
    const few = priorOf(pool([[100, 3]]), null);
    const many = priorOf(pool(Array.from({ length: 50 }, (): [number, number] => [100, 3])), null);
    expect(few.doubt).toBeGreaterThan(5 * many.doubt);
  });

  test('laws: mean between data and the level above, everything finite, whatever comes', () => {
    const rows = fc.array(fc.tuple(fc.integer({ min: 0, max: 5000 }), fc.nat(600)), { maxLength: 40 });
    fc.assert(
      fc.property(rows, (list) => {
        const above = { mu: 0.1, strength: 50, doubt: 0.1 };
        const siblings = pool(list.map(([n, y]) => [n, Math.min(n, y)]));
        const { mu, strength, doubt } = priorOf(siblings, above);
        const own = siblings.n > 0 ? siblings.y / siblings.n : above.mu;
        expect(mu).toBeGreaterThanOrEqual(Math.min(own, above.mu) - 1e-12);
        expect(mu).toBeLessThanOrEqual(Math.max(own, above.mu) + 1e-12);
        expect(strength).toBeGreaterThan(0);
        expect(Number.isFinite(strength) && Number.isFinite(doubt) && doubt >= 0).toBe(true);
      }),
    );
  });
});

describe('laws', () => {
  const some = fc.record({
    mu: fc.double({ min: 0.005, max: 0.4, noNaN: true }),
    strength: fc.double({ min: 10, max: 500, noNaN: true }),
    n: fc.double({ min: 0.5, max: 3000, noNaN: true }),
    y: fc.nat(300),
    doubt: fc.double({ min: 0, max: 2, noNaN: true }),
    drift: fc.double({ min: 0, max: 0.3, noNaN: true }),
  });

  test('the posterior mean lies between prior and data', () => {
    fc.assert(
      fc.property(some, ({ mu, strength, n, y, doubt, drift }) => {
        const at = mean(posterior({ mu, strength, doubt, drift }, n, y));
        expect(at).toBeGreaterThanOrEqual(Math.min(mu, y / n) - 1e-12);
        expect(at).toBeLessThanOrEqual(Math.max(mu, y / n) + 1e-12);
      }),
    );
  });

  test('a dearer click is never less likely over target, and the interval holds its middle', () => {
    fc.assert(
      fc.property(some, fc.integer({ min: 50_000, max: 3_000_000 }), ({ mu, strength, n, y }, cpc) => {
        const belief = { gamma: posterior({ mu, strength, doubt: 0 }, n, y), value: micros(25), cpc };
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
    const prior = { mu: 0.1, strength: 40, doubt: 0 };
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
