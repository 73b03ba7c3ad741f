import { judgeTargets } from './judge.ts';
import { account, target } from './small-account.fixture.ts';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { guardBid, defaultGuards } from '../bids/guards.ts';
import { micros } from '../metrics/money.ts';
import { budgetThetas, thetaWithin, type Spender } from './budgets.ts';
import type { AdGroupInfo, TargetRow } from '../account/rows.ts';

const spender = (spend: number, perTheta: number, elasticity = 1): Spender => ({
  spend: micros(spend),
  perTheta,
  elasticity,
});

describe('what a budget leaves to bids', () => {
  test('by hand: 10.00 a week at half the bid it would have at theta 1; 15.00 allow 1.5 times the bid: theta 0.75', () => {
    expect(thetaWithin(micros(15), [spender(10, 2)], 1)).toBeCloseTo(0.75);
    expect(thetaWithin(micros(30), [spender(10, 2)], 1)).toBe(1);
  });

  test('laws: within the budget where any bid within reach is, never above what the goal gives, more for more', () => {
    const some = fc.array(
      fc.record({
        spend: fc.integer({ min: 1, max: 1e9 }),
        perTheta: fc.double({ min: 0.1, max: 10, noNaN: true }),
        elasticity: fc.double({ min: 0.1, max: 5, noNaN: true }),
      }),
      { minLength: 1, maxLength: 20 },
    );
    const budget = fc.integer({ min: 1, max: 1e9 });
    fc.assert(
      fc.property(some, budget, budget, fc.double({ min: 0.1, max: 2, noNaN: true }), (list, a, b, most) => {
        const [less, more] = [
          thetaWithin(Math.min(a, b), list, most),
          thetaWithin(Math.max(a, b), list, most),
        ];
        expect(less).toBeLessThanOrEqual(more);
        expect(more).toBeLessThanOrEqual(most);
        expect(less).toBeGreaterThanOrEqual(0);
      }),
    );
  });

  test('a raise is held whole by a budget that runs dry, in part by one that lasts for some of it; a cut never', () => {
    const input = {
      wanted: micros(0.9),
      current: micros(0.5),
      highestCpc: null,
      paidPerBid: 0.7,
      changedOn: null,
      today: '2026-05-01',
      overSinceChange: null,
    };
    expect(guardBid({ ...input, affordable: micros(0.3) }, defaultGuards)).toEqual({
      bid: null,
      held: ['budget'],
      whole: true,
    });
    expect(guardBid({ ...input, affordable: micros(0.7) }, defaultGuards)).toMatchObject({
      bid: micros(0.7),
      held: ['budget'],
    });
    const cut = guardBid({ ...input, wanted: micros(0.3), affordable: micros(0.2) }, defaultGuards);
    expect(cut).toMatchObject({ bid: micros(0.3), held: [] });
  });

  test('whole held by the budget after the largest step took its part: the budget is named, it decides', () => {
    // Sells 0.5 orders of 20.00 a click: wants far more than twice its bid; nothing is left of the day's 1.00.
    const strong = target('s', '2', 'broad', 'strong lids', 300, 150);
    const budgets = { all: [{ daily: micros(1), campaignIds: ['c2'] }], shown: new Map<string, number>() };
    const { findings } = judgeTargets(account({ targets: [strong], budgets }), 10);
    expect(findings[0]!.proposal).toMatchObject({ kind: 'wait', held: { by: 'budget' } });
    expect(findings[0]!.working.budgetTheta).toBeLessThan(0.5);
    const freed = judgeTargets(account({ targets: [strong] }), 10).findings[0]!;
    expect(freed.proposal).toMatchObject({ kind: 'bid', held: ['largest step up'] });
  });

  test('a campaign that showed half the day spends twice as much in a full one; its group counts all of them', () => {
    const row = (targetId: string, spend: number) =>
      ({
        targetId,
        adGroupId: targetId,
        enabled: true,
        bid: micros(0.5),
        present: { days: 7, spend: micros(spend), clicks: 100, priced: 100 },
      }) as TargetRow;
    const targets = [row('a', 35), row('b', 35), row('idle', 1)];
    const adGroups = new Map(
      targets.map(({ adGroupId }) => [adGroupId, { adGroupId, campaignId: adGroupId } as AdGroupInfo]),
    );
    const thetas = (all: { daily: number; campaignIds: string[] }[], shown: [string, number][]) =>
      budgetThetas({ all, shown: new Map(shown) }, targets, adGroups, (own) => ({
        spender: { spend: own.present.spend, perTheta: 2, elasticity: 1 },
        theta: 0.8,
      }));
    const own = { daily: micros(7), campaignIds: ['a'] };
    // 35.00 of 49.00: theta 0.7. Dry half the day it would have been 70.00: theta 0.35.
    expect(thetas([own], []).get('a')).toBeCloseTo(0.7);
    expect(thetas([own], [['a', 0.5]]).get('a')).toBeCloseTo(0.35);
    // Both together 70.00 of 70.00: theta 0.5, under what its own budget leaves to the one.
    const group = { daily: micros(10), campaignIds: ['a', 'b'] };
    const both = thetas([own, group], []);
    expect(both.get('a')).toBeCloseTo(0.5);
    expect(both.get('b')).toBeCloseTo(0.5);
    // A budget that cannot bind is not looked at.
    expect(thetas([{ daily: micros(7), campaignIds: ['idle'] }], []).size).toBe(0);
  });
});
