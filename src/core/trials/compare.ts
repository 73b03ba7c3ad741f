import tCdf from '@stdlib/stats-base-dists-t-cdf';
import tQuantile from '@stdlib/stats-base-dists-t-quantile';
import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';

/** What a change did, by difference in differences over whole weeks (domain, section 17). */

/** What something had on one day. Money in micros. */
export interface DayFigures {
  day: Day;
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
}

export type FigureName = Exclude<keyof DayFigures, 'day'>;
export const figureNames: readonly FigureName[] = ['clicks', 'spend', 'orders', 'sales'];

/** A figure that decides, as a weighted sum of the others: gain is goal x sales - spend. */
export type Deciding = Partial<Record<FigureName, number>>;

/** Weeks of seven days each, before and after a change. */
export interface Sides {
  before: readonly (readonly DayFigures[])[];
  after: readonly (readonly DayFigures[])[];
}

export interface Estimate {
  value: number;
  /** The ends of its 80 % interval. */
  low: number;
  high: number;
}

/** Of a week. */
export interface Comparison {
  weeks: { before: number; after: number };
  before: Record<FigureName, number>;
  /** What weeks after would have been, had it moved as the control did. */
  expected: Record<FigureName, number>;
  after: Record<FigureName, number>;
  /** After less expected; null where a side has no whole week. */
  effect: Record<FigureName, Estimate> | null;
  /** The same of what decides. */
  decided: Estimate | null;
  /** How surely what decides is better: 0 to 1. */
  better: number;
}

type Sums = Record<FigureName, number>;

const none = (): Sums => ({ clicks: 0, spend: 0, orders: 0, sales: 0 });
const weekSums = (week: readonly DayFigures[]): Sums =>
  week.reduce((sum, day) => {
    for (const name of figureNames) sum[name] += day[name];
    return sum;
  }, none());

const meanOf = (weeks: readonly Sums[], places: readonly number[]): Sums => {
  const sum = none();
  for (const place of places)
    for (const name of figureNames) sum[name] += weeks[place]![name] / places.length;
  return sum;
};

/** Whole weeks are drawn again so often. */
const draws = 400;
/** A control of fewer than so many of a figure a week moves it by what chance does: its trend is shrunk as if by these. */
const steadyCounts: Sums = { clicks: 100, spend: 0, orders: 30, sales: 0 };

/** How a control moved, shrunk to "as before" where it is small; 1 without one. */
function trendsOf(before: Sums, after: Sums): Sums {
  const trend = (name: 'clicks' | 'orders'): number => {
    const steady = steadyCounts[name];
    return (after[name] + steady) / (before[name] + steady);
  };
  // Money moves as what it is counted in, times what each was worth.
  const each = (of: 'spend' | 'sales', by: 'clicks' | 'orders'): number =>
    before[by] > 0 && after[by] > 0 && before[of] > 0 ? after[of] / after[by] / (before[of] / before[by]) : 1;
  const [clicks, orders] = [trend('clicks'), trend('orders')];
  return { clicks, orders, spend: clicks * each('spend', 'clicks'), sales: orders * each('sales', 'orders') };
}

const decidedOf = (sums: Sums, deciding: Deciding): number =>
  figureNames.reduce((sum, name) => sum + (deciding[name] ?? 0) * sums[name], 0);

/**
 * What weeks after a change had beside what they would have had: those before, moved as a control moved. The interval is a
 * bootstrap over whole weeks, widened for their number (Student's t): weeks are few, and their own scatter is counted on
 * few of them. It is never shorter than what counts of these weeks scatter by chance: two weeks that happen to be alike tell no
 * more than others.
 *
 * @param control The same days of what was not touched; null where there is none.
 * @param random From 0 to 1, seeded by whoever calls.
 */
export function compare(
  touched: Sides,
  control: Sides | null,
  deciding: Deciding,
  random: () => number,
): Comparison {
  const sums = {
    before: touched.before.map(weekSums),
    after: touched.after.map(weekSums),
    controlBefore: control?.before.map(weekSums) ?? [],
    controlAfter: control?.after.map(weekSums) ?? [],
  };
  const [b, a] = [sums.before.length, sums.after.length];
  const every = (length: number) => Array.from({ length }, (_, at) => at);
  const outcome = (beforeAt: readonly number[], afterAt: readonly number[]) => {
    const before = meanOf(sums.before, beforeAt);
    const after = meanOf(sums.after, afterAt);
    const trends = control
      ? trendsOf(meanOf(sums.controlBefore, beforeAt), meanOf(sums.controlAfter, afterAt))
      : { clicks: 1, spend: 1, orders: 1, sales: 1 };
    const expected = none();
    const effect = none();
    for (const name of figureNames) {
      expected[name] = before[name] * trends[name];
      effect[name] = after[name] - expected[name];
    }
    return { before, after, expected, effect };
  };
  if (b === 0 || a === 0) {
    const empty = outcome(every(b), every(a));
    return { weeks: { before: b, after: a }, ...empty, effect: null, decided: null, better: 0.5 };
  }
  const found = outcome(every(b), every(a));
  const pick = (length: number) => Array.from({ length }, () => Math.floor(random() * length));
  const drawn = Array.from({ length: draws }, () => outcome(pick(b), pick(a)).effect);
  const freedom = Math.max(1, a + b - 2);
  const widening = Math.sqrt((a + b) / freedom);
  const quantile = tQuantile(0.9, freedom);
  const spreadOf = (of: (effect: Sums) => number, floor: number): number => {
    const values = drawn.map(of);
    const mean = values.reduce((sum, value) => sum + value, 0) / draws;
    const variance = values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / draws;
    return Math.max(Math.sqrt(variance) * widening, floor);
  };
  const chanceOf = chanceSpread(found.before, found.after, b, a);
  const estimate = (value: number, spread: number): Estimate => ({
    value,
    low: value - quantile * spread,
    high: value + quantile * spread,
  });
  const ofFigure = (name: FigureName): Estimate =>
    estimate(
      found.effect[name],
      spreadOf((effect) => effect[name], chanceOf[name]),
    );
  const floor = Math.hypot(...figureNames.map((name) => (deciding[name] ?? 0) * chanceOf[name]));
  const spread = spreadOf((effect) => decidedOf(effect, deciding), floor);
  const value = decidedOf(found.effect, deciding);
  return {
    weeks: { before: b, after: a },
    ...found,
    effect: {
      clicks: ofFigure('clicks'),
      spend: ofFigure('spend'),
      orders: ofFigure('orders'),
      sales: ofFigure('sales'),
    },
    decided: estimate(value, spread),
    better: spread > 0 ? tCdf(value / spread, freedom) : value > 0 ? 1 : value < 0 ? 0 : 0.5,
  };
}

/** What counts of a week scatter by chance, on both sides: clicks and orders as Poisson, money with them. */
function chanceSpread(before: Sums, after: Sums, b: number, a: number): Sums {
  const of = (name: FigureName, by: 'clicks' | 'orders', scatter: number): number => {
    const each = (sums: Sums): number => (sums[by] > 0 ? sums[name] / sums[by] : 0);
    return Math.sqrt(
      (scatter * each(before) ** 2 * Math.max(1, before[by])) / b +
        (scatter * each(after) ** 2 * Math.max(1, after[by])) / a,
    );
  };
  return {
    clicks: of('clicks', 'clicks', 1.5),
    spend: of('spend', 'clicks', 1.5),
    orders: of('orders', 'orders', 1),
    sales: of('sales', 'orders', 1.3),
  };
}
