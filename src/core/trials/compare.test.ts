import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { addDays } from '../metrics/days.ts';
import { compare, type DayFigures, type Sides } from './compare.ts';

/** Figures of days are made from a seed: what is claimed of intervals holds for many such accounts. */

function seeded(seed: number): () => number {
  let state = (seed * 2_654_435_761) % 2_147_483_647 || 1;
  return () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
}

function poisson(mean: number, random: () => number): number {
  if (mean > 60) {
    const z = Math.sqrt(-2 * Math.log(random())) * Math.cos(2 * Math.PI * random());
    return Math.max(0, Math.round(mean + Math.sqrt(mean) * z));
  }
  let [count, left] = [0, random()];
  for (const floor = Math.exp(-mean); left > floor; left *= random()) count++;
  return count;
}

/** Weeks of days with so many clicks, of which `perClick` order for 20.00 at 0.50 a click. */
function weeks(
  count: number,
  clicks: (week: number) => number,
  perClick: number,
  random: () => number,
  first = '2026-08-03',
): DayFigures[][] {
  return Array.from({ length: count }, (_, week) =>
    Array.from({ length: 7 }, (_unused, day) => {
      const own = poisson(clicks(week), random);
      const orders = poisson(own * perClick, random);
      return {
        day: addDays(first, week * 7 + day),
        clicks: own,
        spend: own * 500_000,
        orders,
        sales: orders * 20_000_000,
      };
    }),
  );
}

const day = (clicks: number, orders: number): DayFigures => ({
  day: '2026-08-03',
  clicks,
  spend: clicks * 500_000,
  orders,
  sales: orders * 20_000_000,
});
const flatWeek = (clicks: number, orders: number): DayFigures[] =>
  Array.from({ length: 7 }, () => day(clicks, orders));

describe('difference in differences', () => {
  test('by hand: what was not touched fell by a tenth, what was touched stayed, so it won a ninth', () => {
    const touched: Sides = { before: [flatWeek(100, 10)], after: [flatWeek(100, 10)] };
    const control: Sides = { before: [flatWeek(1000, 100)], after: [flatWeek(900, 90)] };
    const { before, expected, effect, decided } = compare(
      touched,
      control,
      { sales: 0.25, spend: -1 },
      seeded(1),
    );
    expect(before.clicks).toBe(700);
    // (6300 + 100) / (7000 + 100), (630 + 30) / (700 + 30): a control of some size is hardly shrunk.
    expect(expected.clicks).toBeCloseTo((700 * 6400) / 7100, 6);
    expect(expected.orders).toBeCloseTo((70 * 660) / 730, 6);
    expect(effect!.orders.value).toBeCloseTo(70 - (70 * 660) / 730, 6);
    expect(decided!.value).toBeCloseTo(0.25 * effect!.sales.value - effect!.spend.value, 3);
  });

  test('without a control, weeks before are what is expected; without a whole week nothing is said', () => {
    const alone = compare(
      { before: [flatWeek(10, 1)], after: [flatWeek(20, 2)] },
      null,
      { orders: 1 },
      seeded(2),
    );
    expect(alone.expected.orders).toBe(7);
    expect(alone.effect!.orders.value).toBe(7);
    const none = compare({ before: [flatWeek(10, 1)], after: [] }, null, { orders: 1 }, seeded(2));
    expect(none).toMatchObject({ effect: null, decided: null, better: 0.5 });
  });

  test('weeks that happen to be alike tell no more than their counts: never shorter than chance', () => {
    const weeks = [flatWeek(10, 1), flatWeek(10, 1)];
    const { effect } = compare({ before: weeks, after: weeks }, null, { orders: 1 }, seeded(5));
    // Poisson: 7 orders a week on each side, two weeks each: a standard deviation of 2.65, and Student's 1.89 at two degrees.
    expect(effect!.orders.high - effect!.orders.low).toBeCloseTo(2 * 1.886 * Math.sqrt(7), 1);
  });

  test('intervals of 80 % hold what is true in 75 to 90 %, with two weeks as with six, and claim nothing of nothing', () => {
    for (const [before, after, real] of [
      [4, 2, 1],
      [6, 6, 1],
      [4, 3, 1.3],
    ] as const) {
      let [held, claimed] = [0, 0];
      const runs = 160;
      for (let run = 0; run < runs; run++) {
        const random = seeded(1000 * before + 10 * after + run * 7919 + 3);
        // The whole market moves from week to week, and falls by a fifth after the change.
        const market = Array.from({ length: before + after }, () => 1 + 0.1 * (random() - 0.5));
        const at = (scale: number, from: number, factor: number) => (week: number) =>
          scale * market[from + week]! * factor;
        const touched: Sides = {
          before: weeks(before, at(60, 0, 1), 0.1, random),
          after: weeks(after, at(60, before, 0.8 * real), 0.1, random),
        };
        const control: Sides = {
          before: weeks(before, at(300, 0, 1), 0.1, random),
          after: weeks(after, at(300, before, 0.8), 0.1, random),
        };
        const { decided, better } = compare(touched, control, { orders: 1 }, random);
        const truth = 60 * 7 * 0.1 * 0.8 * (real - 1);
        if (decided!.low <= truth && truth <= decided!.high) held++;
        if (real === 1 && (better > 0.95 || better < 0.05)) claimed++;
      }
      expect(held / runs, `${before} and ${after} weeks`).toBeGreaterThan(0.72);
      expect(held / runs, `${before} and ${after} weeks`).toBeLessThan(0.94);
      if (real === 1) expect(claimed / runs).toBeLessThan(0.15);
    }
  });

  test('law: whatever they had, the interval lies around what is found', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 300 }), { minLength: 4, maxLength: 8 }),
        fc.integer({ min: 1, max: 3 }),
        (clicks, cut) => {
          const all = clicks.map((one) => flatWeek(one + 1, Math.floor(one / 9)));
          const sides: Sides = { before: all.slice(0, -cut), after: all.slice(-cut) };
          const { effect, decided } = compare(sides, null, { clicks: 1 }, seeded(clicks.length));
          expect(effect!.clicks.low).toBeLessThanOrEqual(effect!.clicks.value);
          expect(effect!.clicks.high).toBeGreaterThanOrEqual(effect!.clicks.value);
          expect(decided!.value).toBeCloseTo(effect!.clicks.value, 6);
        },
      ),
    );
  });
});
