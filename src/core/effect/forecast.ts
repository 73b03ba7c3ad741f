import type { Gamma } from '../evidence/gamma.ts';
import type { Micros } from '../metrics/money.ts';
import type { Effect, Spreads } from './types.ts';

/** What is not known of a forecast, and how forecasts are held against what came (domain, section 11). */

/** Standard deviations of a target's own elasticities around those of its campaign: auctions differ. */
export const ownSpread = { clicks: 0.45, cpc: 0.2 };

/** Half of the 80 % interval of a normal, in standard deviations. */
export const eighty = 1.2816;

/** Value of an order: its relative standard deviation, beside what baskets scatter by chance. */
const valueSpread = 0.1;
/** Baskets: variance of one order's value over its square. Clicks of days scatter more than Poisson. */
const basketScatter = 0.25;
const clickScatter = 1.5;

export const noSpreads: Readonly<Spreads> = { clicks: 0, spend: 0, orders: 0, sales: 0, profit: 0 };

/** What a forecast rests on: the belief, the clicks behind a week's clicks, the new bid over the one they came at. */
export interface ForecastGround {
  gamma: Gamma;
  value: Micros;
  clicksSeen: number;
  /** Null for what blocks: nothing is left, and no elasticity comes in. */
  ratio: number | null;
  margin: number | null;
}

/**
 * Standard deviations of what is expected of an amount of clicks and spend, be it a change or a week after it. To first
 * order: what is not known of the clicks now, of both elasticities and of orders per click adds in squares. `moved` is
 * the week's clicks and spend that the elasticities act on.
 */
function spreadsOf(
  amount: { clicks: number; spend: Micros },
  moved: { clicks: number; spend: Micros },
  { gamma, value, clicksSeen, ratio, margin }: ForecastGround,
): Spreads {
  const x = ratio === null ? 0 : Math.abs(Math.log(ratio));
  const level = 1 / Math.sqrt(clicksSeen + 1);
  const clicks = Math.hypot(amount.clicks * level, moved.clicks * x * ownSpread.clicks);
  const spend = Math.hypot(
    amount.spend * level,
    moved.spend * x * Math.hypot(ownSpread.clicks, ownSpread.cpc),
  );
  const perClick = gamma.shape / gamma.rate;
  const orders = Math.hypot(clicks * perClick, amount.clicks * (Math.sqrt(gamma.shape) / gamma.rate));
  const sales = Math.hypot(orders * value, amount.clicks * perClick * value * valueSpread);
  const profit = margin === null ? null : Math.hypot(margin * sales, spend);
  return { clicks, spend, orders, sales, profit };
}

/** Standard deviations of an effect, and of the week after it: what it is held against later. */
export function effectSpreads(effect: Effect, ground: ForecastGround): { change: Spreads; after: Spreads } {
  const before = effect.before ?? { clicks: 0, spend: 0 };
  const after = { clicks: before.clicks + effect.clicks, spend: before.spend + effect.spend };
  return { change: spreadsOf(effect, after, ground), after: spreadsOf(after, after, ground) };
}

/** A forecast's spreads made wider by what past ones missed. */
export const widen = (spreads: Spreads, by: number): Spreads => ({
  clicks: spreads.clicks * by,
  spend: spreads.spend * by,
  orders: spreads.orders * by,
  sales: spreads.sales * by,
  profit: spreads.profit === null ? null : spreads.profit * by,
});

/** A week's sums: clicks and orders, money in micros. */
export interface WeekSums {
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
}

/** What one forecast came to: change per week as said and as seen, and the standard deviation of seen - said. */
export interface Score {
  said: WeekSums;
  seen: WeekSums;
  spread: WeekSums;
  /** The sales seen lie within the 80 % interval of those said. */
  inside: boolean;
}

/**
 * Holds a forecast against the whole settled weeks after it. What came is compared with the week that was expected
 * without the change, moved as untouched siblings moved (`trend`): the weeks just before are no measure, since many a
 * change was made because of them. `kept`: the share of that week that other lines of the same day left to it, such as
 * terms that were isolated. The interval holds what was not known and the chance of counts.
 */
export function scoreForecast(
  effect: Effect,
  before: WeekSums,
  after: WeekSums,
  weeks: number,
  { trend, kept, widening }: { trend: number; kept: number; widening: number },
): Score {
  const made = (at: (name: keyof WeekSums) => number): WeekSums => ({
    clicks: at('clicks'),
    spend: at('spend'),
    orders: at('orders'),
    sales: at('sales'),
  });
  // Lines of before forecasts had a week of their own: the weeks before them.
  const usual = effect.before ?? made((name) => before[name] / weeks);
  const week = made((name) => usual[name] * trend * kept);
  const said = made((name) => effect[name] * kept);
  const seen = made((name) => after[name] / weeks - week[name]);
  const to = made((name) => Math.max(0, week[name] + said[name]));
  const cpc = ratio(to.spend, to.clicks) ?? ratio(usual.spend, usual.clicks) ?? 0;
  const value = ratio(usual.sales, usual.orders) ?? ratio(said.sales, said.orders) ?? 0;
  const clicks = Math.sqrt((clickScatter * to.clicks) / weeks);
  const chance: WeekSums = {
    clicks,
    spend: cpc * clicks,
    orders: Math.sqrt((clickScatter * to.orders) / weeks),
    sales: value * Math.sqrt(((clickScatter + basketScatter) * to.orders) / weeks),
  };
  const known = widen(effect.after ?? effect.spreads ?? noSpreads, widening * kept);
  const spread = made((name) => Math.hypot(known[name], chance[name]));
  return { said, seen, spread, inside: Math.abs(seen.sales - said.sales) <= eighty * spread.sales };
}

const ratio = (a: number, b: number): number | null => (b > 0 && a > 0 ? a / b : null);

/** How far forecasts missed, in their own standard deviations: what intervals rest on. */
const fewest = 50;
export const lastForecasts = 200;
const leastInside = 0.74;

/**
 * By how much intervals are widened: when fewer than 74 % of the last 200 forecasts fell within their 80 %, to where
 * 80 % would have. Never narrowed: being too careful costs less. 1 with fewer than 50.
 */
export function wideningOf(scores: readonly Pick<Score, 'said' | 'seen' | 'spread' | 'inside'>[]): number {
  const last = scores.slice(-lastForecasts).filter(({ spread }) => spread.sales > 0);
  if (last.length < fewest) return 1;
  if (last.filter(({ inside }) => inside).length / last.length >= leastInside) return 1;
  const missed = last
    .map(({ said, seen, spread }) => Math.abs(seen.sales - said.sales) / spread.sales)
    .sort((a, b) => a - b);
  return Math.max(1, missed[Math.floor(0.8 * missed.length)]! / eighty);
}
