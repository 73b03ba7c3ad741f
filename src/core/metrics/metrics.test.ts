import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  addDays,
  daysBetween,
  isDay,
  windowBefore,
  windowDays,
  windowEnding,
  windowProblem,
} from './days.ts';
import * as figures from './figures.ts';
import { percent, signedMoney } from './format.ts';
import { decay, defaultMaturity, estimateMaturity, maturity, settledAge } from './maturity.ts';
import { micros } from './money.ts';

const sums = (values: Partial<figures.Sums>): figures.Sums => ({ ...figures.noSums, ...values });

describe('figures', () => {
  const row = sums({
    impressions: 2000,
    clicks: 55,
    spend: micros(38.5),
    orders: 15,
    units: 16,
    sales: micros(412.5),
  });

  test('by hand', () => {
    expect(figures.ctr(row)).toBeCloseTo(0.0275);
    expect(figures.cpc(row)).toBe(micros(0.7));
    expect(figures.cvr(row)).toBeCloseTo(15 / 55);
    expect(figures.revenuePerClick(row)).toBe(micros(7.5));
    expect(figures.averageOrderValue(row)).toBe(micros(27.5));
    expect(figures.costPerOrder(row)).toBeCloseTo(38.5e6 / 15);
    expect(figures.acos(row)).toBeCloseTo(38.5 / 412.5);
    expect(figures.roas(row)).toBeCloseTo(412.5 / 38.5);
    expect(figures.tacos(row.spend, micros(770))).toBeCloseTo(0.05);
    expect(figures.gainAgainstTarget(row, 0.3)).toBe(micros(0.3 * 412.5 - 38.5));
    expect(figures.adProfit(row, 0.4)).toBe(micros(0.4 * 412.5 - 38.5));
  });

  test('what cannot be divided is a dash, spend without sales is the worst ACOS', () => {
    expect(figures.cvr(figures.noSums)).toBeNull();
    expect(figures.ctr(figures.noSums)).toBeNull();
    expect(figures.acos(figures.noSums)).toBeNull();
    expect(figures.acos(sums({ spend: 1 }))).toBe(Infinity);
    expect([percent(null), percent(Infinity), percent(0), percent(0.264), percent(0.071)]).toEqual([
      '–',
      'no sales',
      '0 %',
      '26 %',
      '7.1 %',
    ]);
    expect([signedMoney(micros(-3.2)), signedMoney(micros(1200)), signedMoney(100)]).toEqual([
      '−3.20',
      '+1,200.00',
      '0.00',
    ]);
  });

  test('a ratio of a group is the ratio of its sums, whatever the split', () => {
    const part = fc.record({
      impressions: fc.nat(1e6),
      clicks: fc.nat(1e4),
      spend: fc.nat(1e9),
      orders: fc.nat(500),
      units: fc.nat(500),
      sales: fc.nat(1e9),
    });
    fc.assert(
      fc.property(fc.array(part, { minLength: 1, maxLength: 20 }), fc.nat(19), (parts, at) => {
        const whole = figures.total(parts);
        const split = figures.addSums(figures.total(parts.slice(0, at)), figures.total(parts.slice(at)));
        expect(split).toEqual(whole);
        expect(figures.acos(split)).toBe(figures.acos(whole));
      }),
    );
  });

  test('margin of the airlock lids: 18.90 less 4.10, 14 % + 0.30, 2.90, 3 % refunds', () => {
    const product = {
      price: micros(18.9),
      unitCost: micros(4.1),
      feeRate: 0.14,
      feeFixed: micros(0.3),
      shipping: micros(2.9),
      refundRate: 0.03,
    };
    expect(figures.margin(product)).toBeCloseTo((18.9 - 4.1 - 2.646 - 0.3 - 2.9 - 0.567) / 18.9);
    expect(figures.margin({ ...product, price: 0 })).toBeNull();
  });
});

describe('days and windows', () => {
  test('over months and leap days', () => {
    expect(addDays('2028-02-28', 2)).toBe('2028-03-01');
    expect(daysBetween('2026-10-24', '2026-10-26')).toBe(2);
    expect(windowEnding('2026-11-16', 30)).toEqual({ from: '2026-10-18', to: '2026-11-16' });
    expect(windowBefore({ from: '2026-10-18', to: '2026-11-16' })).toEqual({
      from: '2026-09-18',
      to: '2026-10-17',
    });
    expect(windowDays({ from: '2026-11-16', to: '2026-11-16' })).toBe(1);
  });
});

describe('maturity', () => {
  test('the default curve settles at five days', () => {
    expect(settledAge(defaultMaturity)).toBe(5);
    expect([
      maturity(defaultMaturity, -1),
      maturity(defaultMaturity, 1),
      maturity(defaultMaturity, 40),
    ]).toEqual([0, 0.7, 1]);
  });

  test('an account without history keeps the default', () => {
    expect(estimateMaturity([])).toEqual(defaultMaturity);
    expect(estimateMaturity([{ day: '2026-11-01', age: 0, orders: 500 }])).toEqual(defaultMaturity);
  });

  test('is read from restatements, chained from the oldest age down', () => {
    // Ten days, each seen at age 1 with 30 orders and at age 8 with 40: 75 % known at age 1.
    const sights = Array.from({ length: 10 }, (_, i) => addDays('2026-10-01', i)).flatMap((day) => [
      { day, age: 1, orders: 30 },
      { day, age: 8, orders: 40 },
    ]);
    const curve = estimateMaturity(sights);
    expect(curve[1]).toBeCloseTo(0.75);
    expect(curve[0]).toBe(defaultMaturity[0]);
    expect(curve.every((share, i) => i === 0 || share >= curve[i - 1]!)).toBe(true);
  });

  test('decay halves every 45 days', () => {
    expect([decay(0), decay(45), decay(90)]).toEqual([1, 0.5, 0.25]);
  });
});

test('days and windows: real ones of this century', () => {
  expect(['2026-11-05', '2000-01-01', '2028-02-29'].every(isDay)).toBe(true);
  expect(['2026-02-29', '2026-11-5', '1999-12-31', '2101-01-01', '', '2026-11-05 '].some(isDay)).toBe(false);
  expect(windowProblem({ from: '2026-11-01', to: '2026-11-30' })).toBe(null);
  expect(windowProblem({ from: '2026-11-01', to: '2026-10-30' })).toBe('The window ends before it begins.');
  expect(windowProblem({ from: '2026-02-30', to: '2026-10-30' })).toContain('“2026-02-30” is no day');
  expect(windowProblem({ from: '2000-01-01', to: '2026-10-30' })).toContain('at most 1830 days');
});
