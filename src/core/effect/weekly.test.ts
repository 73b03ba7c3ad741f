import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { bidEffect, blockEffect, effectAtRatio, withSpreads } from './weekly.ts';

// 20 clicks a week for 8.00; an order in ten clicks, worth 20.00.
const week = { clicks: 20, spend: micros(8) };
const belief = { gamma: { shape: 4, rate: 40 }, value: micros(20), cpc: micros(0.4) };
const flat = { clicks: 1, cpc: 0.5, slope: 0, fade: 0, paid: 0.7 };

describe('effects by hand', () => {
  test('a bid up by 44 % at e 1 and f 0.5: 8.8 clicks for 5.82 more, 0.88 orders, 17.60 sold', () => {
    const effect = bidEffect(week, 1.44, flat, belief, 0.5);
    expect(effect.clicks).toBeCloseTo(8.8);
    expect(effect.spend / 1e6).toBeCloseTo(8 * 1.44 * 1.2 - 8);
    expect(effect.orders).toBeCloseTo(0.88);
    expect(effect.sales / 1e6).toBeCloseTo(17.6);
    expect(effect.profit! / 1e6).toBeCloseTo(0.5 * 17.6 - 5.824);
    expect(effect.before).toEqual({ ...week, orders: 2, rests: 40, sales: micros(40) });
  });

  test('a negative saves 8.00 and loses 40.00 of sales; costs unknown, profit unknown', () => {
    const effect = blockEffect(week, belief, null);
    expect([effect.spend / 1e6, effect.sales / 1e6, effect.profit]).toEqual([-8, -40, null]);
  });

  test('kappa corrects orders and sales, clicks and spend not', () => {
    const effect = bidEffect(week, 1.44, flat, belief, 0.5, 0.9);
    expect(effect.clicks).toBeCloseTo(8.8);
    expect(effect.sales / 1e6).toBeCloseTo(0.9 * 17.6);
  });

  test('edited on the sheet from 1.44 to 1.2 times: 4 clicks, at the elasticity it was said with', () => {
    const said = bidEffect(week, 1.44, flat, belief, 0.5);
    const edited = effectAtRatio(said, 1.44, 1.2)!;
    expect(edited.clicks).toBeCloseTo(4);
    expect(edited.sales / 1e6).toBeCloseTo(8);
    expect(edited.spend / 1e6).toBeCloseTo(8 * 1.2 ** 1.5 - 8);
    expect(edited.profit! / 1e6).toBeCloseTo(0.5 * 8 - (8 * 1.2 ** 1.5 - 8));
    // A cut instead of a raise turns it.
    expect(effectAtRatio(said, 1.44, 0.5)!.clicks).toBeCloseTo(-10);
    expect(effectAtRatio(said, 1.44, 1)!.clicks).toBeCloseTo(0);
    // Nothing tells the elasticity of a line that leaves the bid as it is, or was said before weeks were kept.
    expect(effectAtRatio(said, 1, 1.2)).toBeNull();
    expect(effectAtRatio({ ...said, before: undefined }, 1.44, 1.2)).toBeNull();
  });
});

test('law: an edit to what was proposed says what was said; intervals stay around the middle', () => {
  const factor = fc.double({ min: 0.2, max: 5, noNaN: true }).filter((x) => Math.abs(Math.log(x)) > 0.02);
  fc.assert(
    fc.property(factor, factor, (was, now) => {
      const said = withSpreads(
        bidEffect(week, was, flat, belief, 0.5),
        { gamma: belief.gamma, value: belief.value, clicksSeen: 50, ratio: was, margin: 0.5 },
        1,
      );
      expect(effectAtRatio(said, was, was)!.sales).toBeCloseTo(said.sales, 3);
      const edited = effectAtRatio(said, was, now)!;
      // The week after it is as uncertain, for its size, as the one that was said.
      const size = (before: number, change: number) => (before + change) / 1e6;
      expect(edited.after!.sales / size(said.before!.sales, edited.sales)).toBeCloseTo(
        said.after!.sales / size(said.before!.sales, said.sales),
        3,
      );
      expect(edited.salesLow).toBeLessThanOrEqual(edited.sales);
      expect(edited.salesHigh).toBeGreaterThanOrEqual(edited.sales);
      expect(Math.sign(edited.clicks)).toBe(Math.sign(Math.log(now)));
    }),
  );
});
