import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { logMean, splitChange, type Member, type Parts } from './split.ts';

const counts = (clicks: number, spend: number, orders: number, sales: number) => ({
  clicks,
  spend,
  orders,
  sales,
});
const sumOf = (parts: Parts): number => Object.values(parts).reduce((sum, part) => sum + part, 0);

describe('what moved a figure', () => {
  test('the logarithmic mean', () => {
    expect(logMean(4, 4)).toBe(4);
    expect(logMean(Math.E, 1)).toBeCloseTo(Math.E - 1);
    expect(logMean(1 + 1e-12, 1)).toBeCloseTo(1);
    expect(logMean(0, 5)).toBe(0);
  });

  test('by hand: sales of one campaign', () => {
    // 100 clicks x 10 % x 20.00 = 200; then 50 clicks x 20 % x 25.00 = 250. L(250, 200) = 50 / ln 1.25 = 224.07.
    const moved = splitChange('sales', [
      { key: 'a', before: counts(100, 50, 10, 200), after: counts(50, 40, 10, 250) },
    ]);
    const weight = 50 / Math.log(1.25);
    expect(moved.parts.clicks).toBeCloseTo(weight * Math.log(0.5)); // -155.3
    expect(moved.parts.cvr).toBeCloseTo(weight * Math.log(2)); // +155.3
    expect(moved.parts.aov).toBeCloseTo(weight * Math.log(1.25)); // +50
    expect(sumOf(moved.parts)).toBeCloseTo(50);
    // Spend fell by 10: half the clicks, at 0.80 instead of 0.50. L(40, 50) = 10 / ln 1.25 = 44.81.
    const spend = splitChange('spend', [
      { key: 'a', before: counts(100, 50, 10, 200), after: counts(50, 40, 10, 250) },
    ]);
    expect(spend.parts.clicks).toBeCloseTo((10 / Math.log(1.25)) * Math.log(0.5));
    expect(spend.parts.cpc).toBeCloseTo((10 / Math.log(1.25)) * Math.log(1.6));
  });

  test('members that came and went are told by themselves', () => {
    const moved = splitChange('sales', [
      { key: 'new', before: counts(0, 0, 0, 0), after: counts(10, 5, 2, 40) },
      { key: 'gone', before: counts(30, 9, 3, 60), after: counts(4, 2, 0, 0) },
    ]);
    expect(moved.parts).toMatchObject({ came: 40, went: -60, clicks: 0, cvr: 0, aov: 0 });
    expect(moved.members.map(({ key }) => key)).toEqual(['gone', 'new']);
  });

  test('ACOS of a group: the same campaigns, and money that goes to the dearer one, is mix alone', () => {
    // ACOS 10 % and 50 %: half of sales each, then a quarter and three quarters. 30 % becomes 40 %.
    const members: Member[] = [
      { key: 'cheap', before: counts(100, 10, 10, 100), after: counts(50, 5, 5, 50) },
      { key: 'dear', before: counts(100, 50, 10, 100), after: counts(150, 75, 15, 150) },
    ];
    const moved = splitChange('acos', members);
    expect(moved.before).toBeCloseTo(0.3);
    expect(moved.after).toBeCloseTo(0.4);
    expect(moved.parts.mix).toBeCloseTo(0.1);
    expect(moved.parts.cpc).toBeCloseTo(0);
    expect(moved.parts.cvr).toBeCloseTo(0);
    // Both raise it by as much: what is under the group's ACOS shrank, what is over it grew.
    expect(moved.members.map(({ change }) => change)).toEqual([expect.closeTo(0.05), expect.closeTo(0.05)]);
  });

  test('ACOS of one campaign: dearer clicks and better conversion', () => {
    const moved = splitChange('acos', [
      { key: 'a', before: counts(100, 50, 10, 200), after: counts(100, 100, 20, 400) },
    ]);
    // 25 % before and after: twice the CPC, twice the CVR. 0.25 x ln 2 each way.
    expect(moved.parts.cpc).toBeCloseTo(0.25 * Math.log(2));
    expect(moved.parts.cvr).toBeCloseTo(-0.25 * Math.log(2));
    expect(sumOf(moved.parts)).toBeCloseTo(0);
  });

  test('nothing sold in a period: an ACOS that is none is not split', () => {
    const moved = splitChange('acos', [
      { key: 'a', before: counts(10, 5, 0, 0), after: counts(10, 5, 1, 20) },
    ]);
    expect(moved).toMatchObject({ before: null, after: 0.25, members: [] });
  });

  const some = fc
    .record({ clicks: fc.nat(500), cpc: fc.nat(300), orders: fc.nat(40), value: fc.nat(9000) })
    .map(({ clicks, cpc, orders, value }) => {
      const sold = Math.min(orders, clicks);
      return counts(clicks, clicks * cpc, sold, sold * value);
    });
  const members = fc.array(fc.record({ before: some, after: some }), { maxLength: 12 });

  test('law: parts sum to the whole, for all and for each, with zeros anywhere', () => {
    fc.assert(
      fc.property(members, fc.constantFrom('sales' as const, 'spend' as const), (list, figure) => {
        const moved = splitChange(
          figure,
          list.map((one, key) => ({ key, ...one })),
        );
        const change = moved.after! - moved.before!;
        const scale = 1e-9 * (1 + moved.after! + moved.before!);
        expect(Math.abs(sumOf(moved.parts) - change)).toBeLessThanOrEqual(scale);
        expect(
          Math.abs(moved.members.reduce((sum, one) => sum + one.change, 0) - change),
        ).toBeLessThanOrEqual(scale);
        for (const one of moved.members)
          expect(Math.abs(sumOf(one.parts) - one.change)).toBeLessThanOrEqual(scale);
      }),
    );
  });

  test('law: parts of an ACOS sum to its change', () => {
    fc.assert(
      fc.property(members, (list) => {
        const moved = splitChange(
          'acos',
          list.map((one, key) => ({ key, ...one })),
        );
        if (moved.before === null || moved.after === null) return;
        const scale = 1e-9 * (1 + moved.before + moved.after);
        expect(Math.abs(sumOf(moved.parts) - (moved.after - moved.before))).toBeLessThanOrEqual(scale);
      }),
    );
  });
});
