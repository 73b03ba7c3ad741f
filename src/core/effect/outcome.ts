import { eighty } from './forecast.ts';
import { clickScatter, trendOf, trendSpread } from './response.ts';
import type { Micros } from '../metrics/money.ts';
import type { ExpectedWeek } from './types.ts';

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
  /** And by this: what its bids took from others of their product that did not move alike, or lost to them. */
  shift: number;
  verdict: OutcomeVerdict;
}

/** What an order is worth scatters around its mean: baskets of one and of three. */
const valueScatter = 1.3;

/**
 * Standard deviations at which a change is said to have worked or not: 95 % on its side. Most changes are small, so that
 * at 90 % one verdict in eight was wrong in simulation, at 95 % one in fourteen.
 */
const sureFrom = 1.645;

/** Orders per click as they were believed when a change was made, and the clicks that this rests on. */
export interface Believed {
  perClick: number;
  /** 0 where it is not known: orders then scatter as those that are counted. */
  rests: number;
}

/**
 * What was believed of all that changes touch together: the ratio of the sums; it rests on as many clicks as leave the
 * sum as unsure as its parts make it. Null where no change says what it expected.
 *
 * @example believedOf([{ clicks: 10, spend: 0, orders: 1, sales: 0, rests: 40 }]) // { perClick: 0.1, rests: 40 }
 * @example believedOf([]) // null
 */
export function believedOf(weeks: readonly ExpectedWeek[]): Believed | null {
  let [clicks, orders, unsure] = [0, 0, 0];
  for (const week of weeks) {
    clicks += week.clicks;
    orders += week.orders;
    if (week.rests) unsure += (week.clicks * week.orders) / week.rests;
  }
  if (clicks === 0) return null;
  return { perClick: orders / clicks, rests: unsure > 0 ? (clicks * orders) / unsure : 0 };
}

/**
 * Variance of the gain of one side: orders are Poisson and each worth about `value`, clicks scatter more than Poisson.
 * Orders that are believed are as unsure as the belief, and no more than if they had been counted.
 */
function variance(
  { clicks, spend, orders }: SideSums,
  value: Micros,
  targetAcos: number,
  rests: number,
): number {
  const cpc = clicks > 0 ? spend / clicks : 0;
  // Half an order: none seen is not none possible.
  const counted = clicks > 0 ? orders + 0.5 : 0;
  const ordered = rests > 0 ? orders * Math.min(1, clicks / rests) : counted;
  return (targetAcos * value) ** 2 * ordered * valueScatter + clickScatter * clicks * cpc ** 2;
}

/**
 * Judges a change by difference in differences (domain, section 11): what it touched, against itself before, moved as
 * untouched siblings did. Without a whole settled week it is too early; what is not
 * 95 % sure is undecided.
 * For example: before 100.00 spent for 200.00 sold, after 60.00 for 190.00, at a goal of 30 %: from -40.00 to -3.00, +37.00
 *
 * Changes are made because of what the weeks before showed: who had bad luck is cut, and does better afterwards whatever is
 * done. So the orders of the weeks before are those that were believed when the change was made, not those that came: of
 * simulated sheets of 300 cuts that did nothing, 64 of 100 were called better or worse by what came, 4 by what was believed.
 *
 * @param siblings Clicks of what nobody changed, over the same weeks; `shift` by how much clicks moved between what was
 * changed and its product's other targets (substitution.ts), 1 for not at all.
 * @param value Value per order where neither side has one, micros.
 * @param believed Orders per click as believed when it was made; null: the orders that came are taken.
 */
export function outcomeOf(
  before: SideSums,
  after: SideSums,
  weeks: number,
  targetAcos: number,
  siblings: { before: number; after: number; shift?: number },
  value: Micros,
  believed: Believed | null = null,
): Outcome {
  const trend = trendOf(siblings.before, siblings.after);
  const { shift = 1 } = siblings;
  const moved = trend * shift;
  if (weeks < 1)
    return { weeks: 0, before: 0, after: 0, change: 0, low: 0, high: 0, trend, shift, verdict: 'too early' };
  const orders = before.orders + after.orders;
  const each = orders > 0 ? (before.sales + after.sales) / orders : value;
  const expected = believed ? expectedOf(before, believed, each) : before;
  const gain = ({ spend, sales }: SideSums) => targetAcos * sales - spend;
  const [was, is] = [gain(expected) * moved, gain(after)];
  const unsure =
    variance(after, each, targetAcos, 0) +
    moved ** 2 * variance(expected, each, targetAcos, believed?.rests ?? 0) +
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
    shift,
    verdict,
  };
}

/** The weeks before as they were believed to be: their clicks with the orders that were expected of them. */
function expectedOf(before: SideSums, { perClick }: Believed, each: Micros): SideSums {
  const orders = before.clicks * perClick;
  return { clicks: before.clicks, spend: before.spend, orders, sales: orders * each };
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
