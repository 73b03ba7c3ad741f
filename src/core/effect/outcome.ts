import { eighty } from './forecast.ts';
import { clickScatter, trendOf, trendSpread } from './response.ts';
import type { Micros } from '../metrics/money.ts';

/** Clicks, spend, orders and sales of some whole weeks; money in micros. */
export interface SideSums {
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
}

export type OutcomeVerdict = 'better' | 'worse' | 'undecided' | 'too early';

/** Whether a change worked: gain against the goal a week, after it against before it. */
export interface Outcome {
  /** Whole settled weeks on either side; 0 while there is none. */
  weeks: number;
  /** Gain against the goal a week, micros: before, as untouched siblings moved, and after. */
  before: Micros;
  after: Micros;
  /** After less before, with the ends of its 80 % interval. */
  change: Micros;
  low: Micros;
  high: Micros;
  /** Clicks of untouched siblings, after over before, shrunk (`trendOf`): what before is multiplied by. */
  trend: number;
  verdict: OutcomeVerdict;
}

/** What an order is worth scatters around its mean: baskets of one and of three. */
const valueScatter = 1.3;

/**
 * Standard deviations at which a change is said to have worked or not: 95 % on its side. Most changes are small, so that
 * at 90 % one verdict in eight was wrong in simulation, at 95 % one in fourteen.
 */
const sureFrom = 1.645;

/** Variance of the gain of one side: orders are Poisson and each worth about `value`, clicks scatter more than Poisson. */
function variance({ clicks, spend, orders }: SideSums, value: Micros, targetAcos: number): number {
  const cpc = clicks > 0 ? spend / clicks : 0;
  // Half an order: none seen is not none possible.
  const ordered = clicks > 0 ? orders + 0.5 : 0;
  return (targetAcos * value) ** 2 * ordered * valueScatter + clickScatter * clicks * cpc ** 2;
}

/**
 * Judges a change by difference in differences (domain, section 11): what it touched, against itself before, moved as
 * untouched siblings did. Without a whole settled week it is too early; what is not
 * 95 % sure is undecided.
 * For example: before 100.00 spent for 200.00 sold, after 60.00 for 190.00, at a goal of 30 %: from -40.00 to -3.00, +37.00
 *
 * @param siblings Clicks of what nobody changed, over the same weeks.
 * @param value Value per order where neither side has one, micros.
 */
export function outcomeOf(
  before: SideSums,
  after: SideSums,
  weeks: number,
  targetAcos: number,
  siblings: { before: number; after: number },
  value: Micros,
): Outcome {
  const trend = trendOf(siblings.before, siblings.after);
  if (weeks < 1)
    return { weeks: 0, before: 0, after: 0, change: 0, low: 0, high: 0, trend, verdict: 'too early' };
  const orders = before.orders + after.orders;
  const each = orders > 0 ? (before.sales + after.sales) / orders : value;
  const gain = ({ spend, sales }: SideSums) => targetAcos * sales - spend;
  const [was, is] = [gain(before) * trend, gain(after)];
  const unsure =
    variance(after, each, targetAcos) +
    trend ** 2 * variance(before, each, targetAcos) +
    (was * trendSpread(siblings.before, siblings.after)) ** 2;
  const deviation = Math.sqrt(unsure);
  const half = eighty * deviation;
  const change = is - was;
  const sure = Math.abs(change) > sureFrom * deviation;
  const verdict = !sure ? 'undecided' : change > 0 ? 'better' : 'worse';
  return {
    weeks,
    before: was / weeks,
    after: is / weeks,
    change: change / weeks,
    low: (change - half) / weeks,
    high: (change + half) / weeks,
    trend,
    verdict,
  };
}

/**
 * Over how many whole weeks many changes are judged together: as many as leave the most weeks of changes that nothing
 * overtook. Those that were changed again earlier are left out.
 *
 * @param untouched Of each change the whole weeks after it until its object was changed again.
 * @param most Whole settled weeks that there are.
 * @returns 0 while no change has a whole week.
 * @example weeksTogether([4, 4, 1], 4) // 4
 * @example weeksTogether([1, 1, 1, 2], 3) // 1
 * @example weeksTogether([0, 0], 3) // 0
 */
export function weeksTogether(untouched: readonly number[], most: number): number {
  let [best, found] = [0, 0];
  for (let weeks = 1; weeks <= most; weeks++) {
    const told = weeks * untouched.filter((one) => one >= weeks).length;
    if (told > 0 && told >= found) [best, found] = [weeks, told];
  }
  return best;
}
