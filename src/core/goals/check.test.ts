import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { breakEven } from './economics.ts';
import { goalProblems } from './check.ts';
import type { SetGoal } from './goals.ts';

const goal = (more: Partial<SetGoal>): SetGoal => ({
  scope: 'product',
  key: 'JAR',
  targetAcos: null,
  bidFloor: null,
  bidCeiling: null,
  theta: 0,
  ...more,
});
const wider = { floor: micros(0.04), ceiling: micros(60) };
const texts = (set: Partial<SetGoal>, margin: number | null = 0.4) =>
  goalProblems(goal(set), { place: 'JAR', margin, wider }).map(({ field, text, asks }) => [
    field,
    text,
    asks,
  ]);

describe('what is wrong with a goal', () => {
  test('nothing, where nothing is', () => {
    expect(texts({ targetAcos: 0.3 })).toEqual([]);
    expect(texts({ objective: 'margin', targetMargin: 0.1 })).toEqual([]);
    expect(texts({ objective: 'profit' })).toEqual([]);
    expect(texts({ guards: { cooldownDays: 14, up: 1.5, down: 0.5, overHighestCpc: 3, least: 0 } })).toEqual(
      [],
    );
  });

  test('a target above break-even is asked about', () => {
    expect(texts({ targetAcos: 0.5 })).toEqual([
      [
        'targetAcos',
        '50 % lies above the break-even of JAR, 40 %: every order by an ad would lose money.',
        true,
      ],
    ]);
    expect(texts({ targetAcos: 0.5 }, null)).toEqual([]);
  });

  test('margins that cannot be aimed at', () => {
    const margin = { objective: 'margin' as const, targetMargin: 0.45 };
    expect(texts(margin)[0]![1]).toBe(
      'JAR has a margin of 40 % before ads: 45 % after them leave nothing to advertise with.',
    );
    expect(texts(margin, null)[0]![1]).toContain('tell its costs first');
    expect(texts(margin, -0.1)[0]![1]).toBe(
      'JAR loses 10 % of its price on every order before any advertising: no margin can be aimed at.',
    );
  });

  test('a floor above its ceiling, be it its own or the wider one’s', () => {
    const said = 'The floor, 2.00, would lie above the ceiling, 1.00.';
    expect(texts({ bidFloor: micros(2), bidCeiling: micros(1) })).toEqual([['bidFloor', said, false]]);
    const found = goalProblems(goal({ bidCeiling: micros(1) }), {
      place: 'JAR',
      margin: null,
      wider: { ...wider, floor: micros(2) },
    });
    expect(found).toEqual([{ field: 'bidCeiling', text: said, asks: false }]);
  });

  test('guards and ladders out of bounds', () => {
    expect(texts({ guards: { up: 0.5 } })[0]![0]).toBe('up');
    expect(texts({ guards: { cooldownDays: 2.5 } })).toEqual([
      ['cooldownDays', 'The cooldown is whole days.', false],
    ]);
    expect(
      texts({ ladder: { bands: [], noSales: { clicks: null, spend: null, step: 'rest' } } })[0]![0],
    ).toBe('ladder');
  });
});

describe('break-even', () => {
  const product = {
    price: micros(20),
    unitCost: micros(6),
    feeRate: 0.15,
    feeFixed: 0,
    shipping: micros(3),
    refundRate: 0,
  };

  test('20.00 less 6.00, 3.00 of fees and 3.00 of shipping leave 8.00: 40 %, 16 clicks at 0.50', () => {
    expect(breakEven(product, 0.25, micros(0.5))).toMatchObject({
      acos: 0.4,
      costPerOrder: micros(8),
      targetCostPerOrder: micros(5),
      clicks: 16,
      targetClicks: 10,
      conversion: 0.1,
    });
  });

  test('without a CPC or a price there is nothing to say of clicks', () => {
    expect(breakEven(product, 0.25, 0)).toMatchObject({ clicks: null, targetClicks: null });
    expect(breakEven({ ...product, price: 0 }, 0.25, micros(0.5))).toBeNull();
    // What loses money before ads may take no click at all.
    expect(breakEven({ ...product, unitCost: micros(30) }, 0.25, micros(0.5))!.clicks).toBe(0);
  });
});
