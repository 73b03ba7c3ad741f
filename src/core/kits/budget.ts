import quantile from '@stdlib/stats-base-dists-negative-binomial-quantile';
import type { Gamma } from '../evidence/gamma.ts';
import type { Micros } from '../metrics/money.ts';

/** One cent of a currency, micros: budgets are whole cents. */
const cent = 10_000;

/** The nearest whole cents. */
export const wholeCents = (amount: Micros): Micros => Math.round(amount / cent) * cent;

/**
 * Parts a budget by shares in whole cents; parts with an amount of their own keep it, the others share what is left.
 * The sum is the budget whenever something is shared (largest remainders).
 * @example splitBudget(10_000_000, [{ share: 1 }, { share: 1 }, { share: 1 }]) // [3_340_000, 3_330_000, 3_330_000]
 */
export function splitBudget(
  budget: Micros,
  parts: readonly { share: number; own?: Micros | null }[],
): Micros[] {
  const free = parts.filter(({ own }) => own == null);
  const fixed = parts.reduce((sum, { own }) => sum + (own ?? 0), 0);
  const cents = Math.max(0, Math.round((budget - fixed) / cent));
  const weight = free.reduce((sum, { share }) => sum + share, 0);
  const exact = parts.map(({ share, own }) => (own == null && weight > 0 ? (cents * share) / weight : 0));
  const whole = exact.map(Math.floor);
  let left = free.length === 0 || weight === 0 ? 0 : cents - whole.reduce((a, b) => a + b, 0);
  const order = parts
    .map((_, i) => i)
    .filter((i) => parts[i]!.own == null)
    .sort((a, b) => exact[b]! - whole[b]! - (exact[a]! - whole[a]!) || a - b);
  for (let i = 0; left > 0; i = (i + 1) % order.length, left--) whole[order[i]!]!++;
  return parts.map(({ own }, i) => own ?? whole[i]! * cent);
}

/** The smallest budget of the whole at which every part that shares it gets the least one. */
export function leastWhole(parts: readonly { share: number; own?: Micros | null }[], least: Micros): Micros {
  const free = parts.filter(({ own }) => own == null);
  const fixed = parts.reduce((sum, { own }) => sum + (own ?? 0), 0);
  const weight = free.reduce((sum, { share }) => sum + share, 0);
  const smallest = Math.min(...free.map(({ share }) => share / weight));
  return free.length === 0 ? fixed : fixed + Math.ceil(least / smallest / cent) * cent;
}

/** What a budget buys in a week. */
export interface Bought {
  clicksADay: number;
  /** Orders a week: the mean, and the 80 % interval of what may come. */
  orders: number;
  ordersLow: number;
  ordersHigh: number;
}

/** Clicks a day that a part needs to be judged within a month (domain, section 15). */
export const clicksToJudge = 10;

/**
 * What a daily budget buys at a CPC, both micros. `rate` is the belief about orders per click: orders of n clicks are
 * then negative binomial, r = shape and p = rate / (rate + n) (Gamma-Poisson predictive; domain, section 15).
 */
export function bought(dailyBudget: Micros, cpc: Micros, rate: Gamma): Bought {
  const clicksADay = cpc > 0 ? dailyBudget / cpc : 0;
  const clicks = 7 * clicksADay;
  const p = rate.rate / (rate.rate + clicks);
  const at = (share: number) => (clicks > 0 ? quantile(share, rate.shape, p) : 0);
  return {
    clicksADay,
    orders: (clicks * rate.shape) / rate.rate,
    ordersLow: at(0.1),
    ordersHigh: at(0.9),
  };
}
