import { mean, quantileOf } from '../evidence/gamma.ts';
import type { Belief } from '../evidence/verdict.ts';
import { respond } from '../bids/evidence.ts';
import type { Micros } from '../metrics/money.ts';
import type { Effect } from './types.ts';

export const noEffect: Readonly<Effect> = {
  clicks: 0,
  spend: 0,
  orders: 0,
  sales: 0,
  salesLow: 0,
  salesHigh: 0,
  profit: 0,
};

/** The change of expected orders and sales that a change of clicks brings. */
function effectOf(clicks: number, spend: Micros, belief: Belief, margin: number | null): Effect {
  const rate = mean(belief.gamma);
  const sales = clicks * rate * belief.value;
  const profit = margin === null ? null : margin * sales - spend;
  return { clicks, spend, orders: clicks * rate, sales, salesLow: sales, salesHigh: sales, profit };
}

/** The same effect with the 80 % interval of its sales: quantiles cost more than all the rest of a finding. */
export function withInterval(effect: Effect, belief: Belief): Effect {
  if (effect.clicks === 0) return effect;
  const ends = [0.1, 0.9].map((p) => effect.clicks * quantileOf(belief.gamma, p) * belief.value);
  return { ...effect, salesLow: Math.min(...ends), salesHigh: Math.max(...ends) };
}

/** What changing the price paid per click by `ratio` does in a week, from a week's clicks and spend now. */
export function bidEffect(
  week: { clicks: number; spend: Micros },
  ratio: number,
  belief: Belief,
  margin: number | null,
): Effect {
  const after = respond(week.clicks, week.spend, ratio);
  return effectOf(after.clicks - week.clicks, after.spend - week.spend, belief, margin);
}

/** What blocking does in a week: the spend is saved, what it would have sold is lost. */
export const blockEffect = (
  week: { clicks: number; spend: Micros },
  belief: Belief,
  margin: number | null,
): Effect => effectOf(-week.clicks, -week.spend, belief, margin);

/** Overspend avoided by a cut or a negative: spend saved less the goal's share of the sales lost; at least 0. */
export const overspendAvoided = (effect: Effect, targetAcos: number): Micros =>
  Math.max(0, -effect.spend + targetAcos * effect.sales);

/** Margin gained by a raise or a harvest, at least 0; without known costs the goal stands in for the margin. */
export const marginGained = (effect: Effect, margin: number | null, targetAcos: number): Micros =>
  Math.max(0, (margin ?? targetAcos * 1.5) * effect.sales - effect.spend);
