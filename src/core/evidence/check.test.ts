import { randomGamma, randomLcg, randomNormal, randomPoisson } from 'd3';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import {
  brier,
  checkModel,
  learnDrift,
  lnPredictive,
  logScore,
  predictiveCoverage,
  widened,
  type CheckedRow,
  type HeldOut,
} from './check.ts';

// Gamma(1, 1) and one click: k orders have chance 1/2, 1/4, 1/8, ...
const geometric = (orders: number): HeldOut => ({ gamma: { shape: 1, rate: 1 }, clicks: 1, orders });

describe('scores by hand', () => {
  test('the predictive of Gamma(1, 1) over one click halves with every order', () => {
    for (const orders of [0, 1, 5])
      expect(Math.exp(lnPredictive({ shape: 1, rate: 1 }, 1, orders))).toBeCloseTo(0.5 ** (orders + 1), 10);
  });

  test('the log score is the mean of rows with clicks', () => {
    const silent = { ...geometric(0), clicks: 0 };
    expect(logScore([geometric(0), geometric(1), silent])).toBeCloseTo((Math.log(0.5) + Math.log(0.25)) / 2);
    expect(logScore([silent])).toBeNull();
  });

  test('drift widens and keeps the mean: Gamma(4, 40) at 25 % more variance is Gamma(2, 20)', () => {
    expect(widened({ shape: 4, rate: 40 }, 0.25)).toEqual({ shape: 2, rate: 20 });
  });

  test('coverage counts a whole number by the part of it within the middle 80 %', () => {
    // 0 orders span 0 to 0.5, of which 0.1 to 0.5 is within; 3 orders span 0.875 to 0.9375, within up to 0.9.
    expect(predictiveCoverage([geometric(0)])).toBeCloseTo(0.8);
    expect(predictiveCoverage([geometric(1)])).toBeCloseTo(1);
    expect(predictiveCoverage([geometric(3)])).toBeCloseTo(0.4);
    expect(predictiveCoverage([])).toBeNull();
  });

  test('Brier: 80 % that came and 30 % that did not are (0.04 + 0.09) / 2', () => {
    expect(
      brier([
        { chance: 0.8, came: true },
        { chance: 0.3, came: false },
      ]),
    ).toBeCloseTo(0.065);
    expect(brier([])).toBeNull();
  });
});

describe('drift', () => {
  /** Rows whose rate moves by `spread` between what was seen and what comes. */
  function rows(spread: number): HeldOut[] {
    const random = randomLcg(0.7);
    const [poisson, normal] = [randomPoisson.source(random), randomNormal.source(random)(0, 1)];
    const rate = randomGamma.source(random)(4);
    return Array.from({ length: 400 }, () => {
      const before = rate() / 40;
      const now = before * Math.exp(spread * normal() - spread ** 2 / 2);
      return {
        gamma: { shape: 4 + poisson(before * 400)(), rate: 440 },
        clicks: 200,
        orders: poisson(now * 200)(),
      };
    });
  }

  test('is found where it is, and none where there is none', () => {
    expect(Math.sqrt(learnDrift(rows(0.25)))).toBeGreaterThan(0.18);
    expect(Math.sqrt(learnDrift(rows(0.25)))).toBeLessThan(0.32);
    expect(Math.sqrt(learnDrift(rows(0)))).toBeLessThanOrEqual(0.08);
  });

  test('nothing is learned from fewer than 100 orders', () => {
    expect(learnDrift(rows(0.5).slice(0, 4))).toBe(0);
    expect(learnDrift([])).toBe(0);
  });

  test('with it the intervals hold what they say', () => {
    const drifting = rows(0.25);
    const coverage = predictiveCoverage(drifting, learnDrift(drifting))!;
    expect(coverage).toBeGreaterThan(0.74);
    expect(coverage).toBeLessThan(0.86);
    expect(coverage - predictiveCoverage(drifting)!).toBeGreaterThan(0.05);
  });
});

describe('the model check', () => {
  const row = (orders: number, more: Partial<CheckedRow> = {}): CheckedRow => ({
    gamma: { shape: 100, rate: 1000 },
    clicks: 1000,
    orders,
    value: micros(20),
    spend: micros(500),
    targetAcos: 0.25,
    ...more,
  });

  test('kappa by hand: (200 + 50) / (100 + 50), beyond two standard errors', () => {
    const check = checkModel([row(200)], 0)!;
    expect(check.kappa).toBeCloseTo(250 / 150);
    expect(check.kappaCounts).toBe(true);
    expect([check.rows, check.orders, check.expected]).toEqual([1, 200, 100]);
  });

  test('110 against 100 is within chance and corrects nothing', () => {
    const check = checkModel([row(110)], 0)!;
    expect(check.kappa).toBeCloseTo(160 / 150);
    expect(check.kappaCounts).toBe(false);
  });

  test('verdicts: 500.00 spent at 25 % needs 100 orders of 20.00; nobody with 20 clicks, no score', () => {
    expect(checkModel([row(160)], 0)!.brier).toBeLessThan(0.3);
    expect(checkModel([row(160, { gamma: { shape: 1600, rate: 1e4 } })], 0)!.brier).toBeLessThan(1e-3);
    expect(checkModel([row(1, { clicks: 19 })], 0)!.brier).toBeNull();
  });

  test('nothing clicked, nothing to check', () => {
    expect(checkModel([row(0, { clicks: 0 })], 0)).toBeNull();
    expect(checkModel([], 0)).toBeNull();
  });
});
