import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Sums } from '../metrics/figures.ts';
import {
  conditionFigures,
  daysOf,
  emptyCondition,
  meets,
  metBy,
  sentenceOfMet,
  type Condition,
  type ConditionCampaign,
} from './conditions.ts';

const sums = (clicks: number, orders: number, spend: number, sales: number): Sums => ({
  impressions: 0,
  clicks,
  orders,
  units: orders,
  spend: spend * 1e6,
  sales: sales * 1e6,
});

const campaignOf = (
  places: Record<string, Sums>,
  more: Partial<ConditionCampaign> = {},
): ConditionCampaign => ({
  campaignId: '1',
  sku: 'A',
  modifiers: { top_of_search: 20, rest_of_search: 0 },
  changedOn: null,
  sumsOf: () => new Map(Object.entries(places)),
  ...more,
});

/** A click sells 3.00 at the top, 1.00 in the rest, 1.50 on the mean of the campaign: 300.00 + 300.00 of 400 clicks. */
const usual = {
  top_of_search: sums(100, 20, 80, 300),
  rest_of_search: sums(300, 15, 120, 300),
};
const when = (part: Partial<Condition>): Condition => ({ ...emptyCondition, ...part });
const last = '2026-11-20';
const met = (part: Partial<Condition>, campaign = campaignOf(usual)) => meets(when(part), campaign, last);

describe('a condition', () => {
  test('by hand: 3.00 of 1.50 is twice; 1.2 x 2 would be 140 %, a step of 30 points allows 50 %', () => {
    expect(met({})).toMatchObject({ ratio: 2, figure: 3e6, against: 1.5e6, clicks: 100, from: 20, to: 50 });
    expect(met({ stepUp: 500 })!.to).toBe(140);
    expect(met({ stepUp: 500, cap: 90 })!.to).toBe(90);
    expect(met({ share: 2.01 })).toBeNull();
    expect(met({ share: 2 })).not.toBeNull();
  });

  test('a cost goes the other way: ACOS of the rest is 0.40, of the campaign a third, 120 %', () => {
    const rest = { placement: 'rest_of_search', figure: 'acos', is: 'at_least', share: 1.2 } as const;
    const campaign = campaignOf(usual, { modifiers: { top_of_search: 20, rest_of_search: 80 } });
    // 1.8 / 1.2 = 1.5.
    expect(met({ ...rest, stepDown: 100 }, campaign)).toMatchObject({ from: 80, to: 50 });
    expect(met({ ...rest, stepDown: 10 }, campaign)!.to).toBe(70);
    expect(met({ ...rest, share: 1.21 }, campaign)).toBeNull();
  });

  test('against another placement, and at most: CVR of the rest 5 %, of the top 20 %', () => {
    const rest = { placement: 'rest_of_search', figure: 'cvr', is: 'at_most', share: 0.3 } as const;
    expect(met({ ...rest, of: 'top_of_search' })).toBeNull();
    const raised = campaignOf(usual, { modifiers: { top_of_search: 0, rest_of_search: 60 } });
    expect(met({ ...rest, of: 'top_of_search' }, raised)).toMatchObject({ ratio: 0.25, from: 60, to: 30 });
  });

  test('what cost money and sold nothing is at least any share, and goes down by its step', () => {
    const campaign = campaignOf(
      { ...usual, top_of_search: sums(100, 0, 80, 0) },
      { modifiers: { top_of_search: 50, rest_of_search: 0 } },
    );
    const found = met({ figure: 'acos', share: 3, stepDown: 20 }, campaign)!;
    expect(found).toMatchObject({ ratio: Infinity, to: 30 });
    expect(
      sentenceOfMet(when({ figure: 'acos' }), { ...found, rank: 0, others: [], waitsTo: null }),
    ).toContain('it sold nothing');
  });

  test('too few clicks, another product, off, a placement that it has not: not met', () => {
    expect(met({ leastClicks: 101 })).toBeNull();
    expect(met({ of: 'rest_of_search', leastClicks: 100 })).not.toBeNull();
    expect(met({ sku: 'B' })).toBeNull();
    expect(met({ isOn: false })).toBeNull();
    expect(met({ placement: 'product_pages' })).toBeNull();
    expect(met({ of: 'product_pages' })).toBeNull();
  });

  test('at its cap already it would change nothing, unless bids move', () => {
    const campaign = campaignOf(usual, { modifiers: { top_of_search: 200 } });
    expect(met({}, campaign)).toBeNull();
    expect(met({ bids: -0.1 }, campaign)).toMatchObject({ to: 200, beta: 0.9 });
  });

  test('looks at its days without the youngest', () => {
    expect(daysOf({ days: 30, leaveOut: 3 }, '2026-11-20')).toEqual({ from: '2026-10-19', to: '2026-11-17' });
    const asked: unknown[] = [];
    met({ days: 7, leaveOut: 0 }, campaignOf(usual, { sumsOf: (window) => (asked.push(window), new Map()) }));
    expect(asked).toEqual([{ from: '2026-11-14', to: '2026-11-20' }]);
  });
});

describe('several conditions', () => {
  test('the first that meets a campaign decides, the others are named', () => {
    const list = [when({ share: 5 }), when({ stepUp: 10 }), when({ figure: 'cvr' })];
    expect(metBy(list, [campaignOf(usual)], last, '2026-11-21')).toMatchObject([
      { rank: 1, to: 30, others: [2] },
    ]);
    expect(metBy([list[0]!], [campaignOf(usual)], last, '2026-11-21')).toEqual([]);
  });

  test('a campaign that was changed waits its days', () => {
    const changed = campaignOf(usual, { changedOn: '2026-11-18' });
    expect(metBy([when({ wait: 7 })], [changed], last, '2026-11-21')[0]!.waitsTo).toBe('2026-11-25');
    expect(metBy([when({ wait: 3 })], [changed], last, '2026-11-21')[0]!.waitsTo).toBeNull();
  });

  test('whatever is said, a modifier moves within its steps and its cap, or towards the cap', () => {
    const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });
    fc.assert(
      fc.property(
        fc.constantFrom(...conditionFigures),
        fc.constantFrom('at_least' as const, 'at_most' as const),
        number(0.01, 5),
        fc.tuple(number(0, 100), number(0, 500), number(0, 500)),
        fc.tuple(fc.integer({ min: 0, max: 300 }), fc.integer({ min: 0, max: 300 })),
        fc.tuple(fc.integer({ min: 0, max: 200 }), fc.integer({ min: 0, max: 200 })),
        (figure, is, share, [orders, spend, sales], [from, cap], [stepUp, stepDown]) => {
          const campaign = campaignOf(
            { ...usual, top_of_search: sums(50, orders, spend, sales) },
            { modifiers: { top_of_search: from } },
          );
          const found = met({ figure, is, share, cap, stepUp, stepDown }, campaign);
          if (!found) return;
          expect(found.to).toBeLessThanOrEqual(Math.max(cap, 0));
          expect(found.to).toBeGreaterThanOrEqual(Math.min(from - stepDown, cap));
          expect(found.to).toBeLessThanOrEqual(from + stepUp);
          expect(Number.isInteger(found.to)).toBe(true);
        },
      ),
    );
  });
});
