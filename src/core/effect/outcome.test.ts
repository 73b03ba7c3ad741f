import { randomGamma, randomLcg, randomPoisson, randomNormal } from 'd3';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { believedOf, outcomeOf, type SideSums } from './outcome.ts';
import type { ExpectedWeek } from './types.ts';

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

  test('clicks that targets of one product took from each other are no harm: half of them gone to siblings', () => {
    const [was, half] = [side(4000, 1000, 400, 8000), side(2000, 500, 200, 4000)];
    const moved = outcomeOf(was, half, 1, 0.3, { ...steady, shift: 0.5 }, 0);
    // 0.3 x 8,000 - 1,000 = 1,400, half of which its siblings have now.
    expect([moved.before, moved.after].map((value) => value / 1e6)).toEqual([700, 700]);
    expect(moved).toMatchObject({ trend: 1, shift: 0.5, verdict: 'undecided' });
    expect(outcomeOf(was, half, 1, 0.3, steady, 0)).toMatchObject({ shift: 1, verdict: 'worse' });
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

  test('orders of the weeks before are those that were believed, where a belief is known', () => {
    // 100 clicks at 0.04 make 4 orders of 25.00, not the one that came: 0.3 x 100 - 50 = -20 before, 0.3 x 100 - 50 after.
    const believed = believedOf([
      { clicks: 25, spend: micros(12.5), orders: 1, sales: micros(25), rests: 400 },
    ]);
    expect(believed).toEqual({ perClick: 0.04, rests: 400 });
    const sides = [side(100, 50, 1, 25), side(100, 50, 4, 100)] as const;
    const by = (one: typeof believed) => outcomeOf(...sides, 1, 0.3, steady, micros(25), one);
    expect([by(believed).before, by(believed).after, by(believed).change]).toEqual([-20e6, -20e6, 0]);
    expect(by(null).before).toBe(-42.5e6);
    // What rests on four times the clicks is less unsure than what was counted.
    expect(by(believed).high - by(believed).low).toBeLessThan(by({ perClick: 0.04, rests: 0 }).high * 2);
  });

  test('beliefs of many changes: the ratio of their sums, as unsure as its parts', () => {
    const week = (clicks: number, orders: number, rests?: number): ExpectedWeek => ({
      clicks,
      orders,
      spend: 0,
      sales: 0,
      ...(rests ? { rests } : {}),
    });
    // 3 + 1 orders of 40 clicks; 30 x 3 / 90 + 10 x 1 / 10 = 2 unsure: 40 x 4 / 2.
    expect(believedOf([week(30, 3, 90), week(10, 1, 10)])).toEqual({ perClick: 0.1, rests: 80 });
    expect(believedOf([week(30, 3)])).toEqual({ perClick: 0.1, rests: 0 });
    expect(believedOf([week(0, 0, 50)])).toBeNull();
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

/**
 * Sheets as they come about: targets whose order rates differ are looked at for four weeks, and those that look over or
 * under their goal are changed. `works`: what a change does; else it does nothing at all.
 */
function playSheets(sheets: number, size: number, works: boolean, seed: number) {
  const random = randomLcg(seed);
  const poisson = (mean: number) => (mean > 0 ? randomPoisson.source(random)(mean)() : 0);
  const gamma = randomGamma.source(random)(2, 1 / 40);
  const drift = randomNormal.source(random)(0, 0.1);
  const [goal, cpc, value] = [0.3, 0.5, 25];
  const came = { inside: 0, told: 0, wrong: 0 };
  const counted = { told: 0 };
  for (let sheet = 0; sheet < sheets; sheet++) {
    const weeks = 1 + Math.floor(random() * 4);
    const trend = Math.exp(drift());
    const [before, after] = [side(0, 0, 0, 0), side(0, 0, 0, 0)];
    const expected: ExpectedWeek[] = [];
    let truth = 0;
    while (expected.length < size) {
      const [weekly, rate] = [2 * 100 ** random(), gamma()];
      const [earlier, clicks] = [poisson(weekly * (4 - weeks)), poisson(weekly * weeks)];
      const [known, orders] = [poisson(earlier * rate), poisson(clicks * rate)];
      const rests = 40 + earlier + clicks;
      const believed = (2 + known + orders) / rests;
      const over = cpc / (believed * value) / goal;
      // Cuts alone, where nothing works: what raises gain by good luck would hide what cuts gain by bad luck.
      if (over < 1.2 && (over > 0.8 || !works)) continue;
      const factor = works ? (over > 1 ? 0.5 : 1.5) : 1;
      const late = poisson(weekly * trend * factor * weeks);
      const made = poisson(late * rate);
      const add = (to: SideSums, n: number, sold: number) => {
        to.clicks += n;
        to.spend += micros(n * cpc);
        to.orders += sold;
        for (let i = 0; i < sold; i++) to.sales += micros(value * (0.6 + 0.8 * random()));
      };
      add(before, clicks, orders);
      add(after, late, made);
      const week = (earlier + clicks) / 4;
      expected.push({ clicks: week, spend: 0, orders: week * believed, sales: 0, rests });
      truth += (goal * rate * value - cpc) * weekly * trend * (factor - 1);
    }
    const siblings = { before: poisson(3000 * weeks), after: poisson(3000 * weeks * trend) };
    const by = (believed: ReturnType<typeof believedOf>) =>
      outcomeOf(before, after, weeks, goal, siblings, micros(value), believed);
    const { low, high, verdict } = by(believedOf(expected));
    if (low <= micros(truth) && micros(truth) <= high) came.inside++;
    if (verdict !== 'undecided') {
      came.told++;
      if (!works || truth > 0 !== (verdict === 'better')) came.wrong++;
    }
    if (by(null).verdict !== 'undecided') counted.told++;
  }
  return { ...came, counted };
}

test('sheets that did nothing are rarely said to have worked, though their lines were picked by bad luck', () => {
  for (const size of [5, 40, 200]) {
    const { inside, told } = playSheets(150, size, false, 0.11 + size / 1000);
    expect(inside / 150, String(size)).toBeGreaterThan(0.74);
    expect(told / 150, String(size)).toBeLessThan(0.12);
  }
  // By the orders that came, without the belief, about every third of the large ones would be.
  expect(playSheets(150, 200, false, 0.3).counted.told / 150).toBeGreaterThan(0.2);
});

test('of sheets that worked the interval holds the truth, and verdicts are right', () => {
  for (const size of [5, 40, 200]) {
    const { inside, told, wrong } = playSheets(150, size, true, 0.2 + size / 1000);
    expect(inside / 150, String(size)).toBeGreaterThan(0.74);
    expect(inside / 150, String(size)).toBeLessThan(0.96);
    expect(wrong / told, String(size)).toBeLessThan(0.05);
    if (size > 5) expect(told / 150).toBeGreaterThan(0.7);
  }
});
