import { respond, type Response } from './response.ts';
import { effectSpreads, eighty, noSpreads, widen, type ForecastGround } from './forecast.ts';
import { mean } from '../evidence/gamma.ts';
import type { Belief } from '../evidence/verdict.ts';
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

/** A week as it is: clicks and spend. */
export interface Week {
  clicks: number;
  spend: Micros;
}

/** The change of expected orders and sales that a change of clicks brings. `kappa` corrects for the account's bias. */
export function clicksEffect(
  week: Week,
  clicks: number,
  spend: Micros,
  belief: Belief,
  margin: number | null,
  kappa = 1,
): Effect {
  const rate = mean(belief.gamma) * kappa;
  const sales = clicks * rate * belief.value;
  const profit = margin === null ? null : margin * sales - spend;
  const before = {
    clicks: week.clicks,
    spend: week.spend,
    orders: week.clicks * rate,
    sales: week.clicks * rate * belief.value,
    rests: belief.gamma.rate,
  };
  return { clicks, spend, orders: clicks * rate, sales, salesLow: sales, salesHigh: sales, profit, before };
}

/** What a bid `ratio` times the present one does in a week, from a week's clicks and spend now (domain, section 11). */
export function bidEffect(
  week: Week,
  ratio: number,
  response: Response,
  belief: Belief,
  margin: number | null,
  kappa = 1,
): Effect {
  const after = respond(week, ratio, response);
  return clicksEffect(week, after.clicks - week.clicks, after.spend - week.spend, belief, margin, kappa);
}

/** What blocking does in a week: the spend is saved, what it would have sold is lost. */
export const blockEffect = (week: Week, belief: Belief, margin: number | null, kappa = 1): Effect =>
  clicksEffect(week, -week.clicks, -week.spend, belief, margin, kappa);

/**
 * The same effect with its standard deviations and the 80 % interval of its sales; `widening` by what past forecasts
 * missed (forecast.ts).
 */
export function withSpreads(effect: Effect, ground: ForecastGround, widening: number): Effect {
  if (effect.clicks === 0 && effect.spend === 0) return { ...effect, spreads: noSpreads };
  const made = effectSpreads(effect, ground);
  const spreads = widen(made.change, widening);
  const half = eighty * spreads.sales;
  // The week after is widened when it is scored, by what forecasts miss then.
  return {
    ...effect,
    spreads,
    after: made.after,
    salesLow: effect.sales - half,
    salesHigh: effect.sales + half,
  };
}

/** What keeping away a share of the clicks of terms does in a week. `days`: that clicks and spend were counted over. */
export function phraseEffect(
  { clicks, spend, belief }: Week & { belief: Belief },
  days: number,
  share: number,
  margin: number | null,
): Effect {
  const week = { clicks: ((clicks * share) / days) * 7, spend: ((spend * share) / days) * 7 };
  const { gamma, value } = belief;
  const ground = { gamma, value, clicksSeen: clicks * share, ratio: null, margin };
  return withSpreads(blockEffect(week, belief, margin), ground, 1);
}

/** An effect with what it was reckoned from. */
export interface Proposed {
  effect: Effect;
  working: Belief & {
    response: Response;
    margin: number | null;
    kappa?: number;
    forecast?: Pick<ForecastGround, 'clicksSeen' | 'ratio'>;
  };
}

/**
 * The effect of a finding when its bid goes elsewhere than proposed, `factor` times as high: what is adjusted or
 * confirmed beyond a guard is said, and later scored, as the bid that is really sent.
 */
export function effectAtBid({ effect, working }: Proposed, factor: number): Effect {
  const { forecast, response, gamma, value, cpc, margin, kappa } = working;
  if (factor === 1 || !effect.before || !forecast || forecast.ratio === null) return effect;
  const ground: ForecastGround = { ...forecast, gamma, value, margin };
  const ratio = forecast.ratio * factor;
  const moved = bidEffect(effect.before, ratio, response, { gamma, value, cpc }, margin, kappa);
  const usual = effectSpreads(effect, ground).change.sales;
  const widening = usual > 0 && effect.spreads ? effect.spreads.sales / usual : 1;
  return withSpreads(moved, { ...ground, ratio }, widening);
}

/**
 * The effect of a line whose bid is edited after it was accepted: from `was` times the old bid to `now` times, at the
 * elasticities that the effect was said with. Null where it was said of no bid, or of a bid that stays.
 */
export function effectAtRatio(effect: Effect, was: number, now: number): Effect | null {
  const { before, spreads, after } = effect;
  if (!before || was === 1 || !(was > 0) || !(now > 0)) return null;
  const power = Math.log(now) / Math.log(was);
  const moved = (name: 'clicks' | 'spend' | 'orders' | 'sales') =>
    before[name] > 0
      ? before[name] * ((before[name] + effect[name]) / before[name]) ** power - before[name]
      : 0;
  const [clicks, spend, orders, sales] = [moved('clicks'), moved('spend'), moved('orders'), moved('sales')];
  const margin =
    effect.profit === null || effect.sales === 0 ? null : (effect.profit + effect.spend) / effect.sales;
  // What is not known goes with what it is not known of: the change, and the week after it.
  const ofChange = effect.sales === 0 ? 0 : Math.abs(sales / effect.sales);
  const ofWeek = before.sales + effect.sales > 0 ? (before.sales + sales) / (before.sales + effect.sales) : 1;
  const half = ((effect.salesHigh - effect.salesLow) / 2) * ofChange;
  return {
    ...effect,
    clicks,
    spend,
    orders,
    sales,
    salesLow: sales - half,
    salesHigh: sales + half,
    profit: margin === null ? null : margin * sales - spend,
    ...(spreads ? { spreads: widen(spreads, ofChange) } : {}),
    ...(after ? { after: widen(after, ofWeek) } : {}),
  };
}
