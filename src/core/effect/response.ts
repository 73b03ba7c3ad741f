import type { Micros } from '../metrics/money.ts';

/**
 * How a change of bid moves clicks and what a click costs (domain, section 11): clicks x r^e, CPC x r^f, r being the new
 * bid over the old one. A bid that already wins most of its auctions pays a smaller part of itself and gains little by a
 * raise, so e is a target's own, by what it pays per bid, and falls as the bid rises (decision 009).
 */
export interface Response {
  /** e: elasticity of clicks, of a small change where `paid` of the bid is paid. */
  clicks: number;
  /** f: elasticity of CPC. */
  cpc: number;
  /** How e goes with what is paid per bid: e x exp(slope x (own - `paid`)). */
  slope: number;
  /** How e falls with the bid: e x r^-fade. */
  fade: number;
  /** CPC over bid at which e holds. */
  paid: number;
}

/** What is believed of an elasticity: its mean and standard deviation. */
export interface Elasticity {
  mean: number;
  spread: number;
}

export const usualClicks: Elasticity = { mean: 1.2, spread: 0.6 };
export const usualCpc: Elasticity = { mean: 0.6, spread: 0.3 };
const usualSlope: Elasticity = { mean: 4, spread: 3 };
const usualFade: Elasticity = { mean: 1, spread: 1 };

/** How elasticities differ between the targets of a level, and along a bid. */
export type Shape = Pick<Response, 'slope' | 'fade' | 'paid'>;

export const usualShape: Shape = { slope: usualSlope.mean, fade: usualFade.mean, paid: 0.7 };
export const usualResponse: Response = { clicks: usualClicks.mean, cpc: usualCpc.mean, ...usualShape };

/** e of a target over e of its level, by what it pays per bid; 1 where that is not known. */
const placeOf = ({ slope, paid }: Shape, own: number | null): number =>
  own === null ? 1 : Math.exp(slope * (Math.min(1, Math.max(0.1, own)) - paid));

/** Below nothing and beyond four an elasticity is no description of an auction. */
export const mostElasticity = 4;
const bounds = { clicks: [0.05, mostElasticity], cpc: [0.05, 1.5] } as const;

/** The response of one target: `paid` is its CPC over its effective bid, null where unknown. */
export const responseAt = (response: Response, paid: number | null): Response => ({
  ...response,
  clicks: Math.min(bounds.clicks[1], Math.max(bounds.clicks[0], response.clicks * placeOf(response, paid))),
  paid: paid ?? response.paid,
});

/** Mean of r^-fade along a change of bid from 1 to `ratio`, in logarithms: (1 - ratio^-fade) / (fade x ln ratio). */
function fadeOver(fade: number, ratio: number): number {
  const x = fade * Math.log(ratio);
  return Math.abs(x) < 1e-9 ? 1 : -Math.expm1(-x) / x;
}

/** Elasticity of clicks over the whole of a change: clicks move by ratio^this. */
export const elasticityOver = ({ clicks, fade }: Response, ratio: number): number =>
  Math.min(bounds.clicks[1], clicks * fadeOver(fade, ratio));

/** Clicks and spend at a bid `ratio` times the present one. */
export function respond(
  week: { clicks: number; spend: Micros },
  ratio: number,
  response: Response,
): { clicks: number; spend: Micros } {
  const factor = ratio ** elasticityOver(response, ratio);
  return { clicks: week.clicks * factor, spend: week.spend * factor * ratio ** response.cpc };
}

/** One bid that was changed: whole weeks before and after; what its untouched siblings did meanwhile. */
export interface BidChange {
  /** New bid over old bid. */
  ratio: number;
  /** CPC over the old effective bid in the weeks before; null where nothing was clicked. */
  paid: number | null;
  before: { days: number; clicks: number; spend: Micros };
  after: { days: number; clicks: number; spend: Micros };
  /** Clicks a day of untouched siblings, after over before; 1 where nothing is known of them. */
  trend: number;
}

/** How far a market usually moves within some weeks, in natural logs: what little evidence is shrunk by. */
const usualTrend = 0.1;
/** Clicks of days scatter more than Poisson. */
export const clickScatter = 1.5;

/**
 * How untouched siblings moved: their clicks after over before. In proportion to how well they tell: few clicks say next
 * to nothing of a trend, and a wrong one would shift every line alike.
 */
export function trendOf(before: number, after: number): number {
  if (before <= 0 || after <= 0) return 1;
  const noise = clickScatter * (1 / before + 1 / after);
  const weight = usualTrend ** 2 / (usualTrend ** 2 + noise);
  return Math.exp(weight * Math.log(after / before));
}

/** How far the trend may be off, as a standard deviation of its natural log: all of the usual one where nothing tells. */
export function trendSpread(before: number, after: number): number {
  if (before <= 0 || after <= 0) return usualTrend;
  const noise = clickScatter * (1 / before + 1 / after);
  return Math.sqrt((usualTrend ** 2 * noise) / (usualTrend ** 2 + noise));
}

/** A change as the likelihood sees it: `pull` is what ln clicks moves by per unit of e. */
interface Pulled {
  pull: number;
  /** Of exposure and trend alone. */
  odds: number;
  before: number;
  after: number;
}

const usable = ({ ratio, before, after, trend }: BidChange): boolean =>
  ratio > 0 &&
  ratio !== 1 &&
  trend > 0 &&
  before.clicks + after.clicks > 0 &&
  before.days > 0 &&
  after.days > 0;

const pulled = (changes: readonly BidChange[], shape: Shape): Pulled[] =>
  changes.map(({ ratio, paid, before, after, trend }) => ({
    pull: placeOf(shape, paid) * fadeOver(shape.fade, ratio) * Math.log(ratio),
    odds: (after.days / before.days) * trend,
    before: before.clicks,
    after: after.clicks,
  }));

/** Maximum of the likelihood of e with its prior, by Newton's method on a concave function. */
function fit(rows: readonly Pulled[], prior: Elasticity, scatter: number): Elasticity {
  let e = prior.mean;
  let information = 0;
  for (let step = 0; step < 20; step++) {
    let slope = -(e - prior.mean) / prior.spread ** 2;
    information = 0;
    for (const { pull, odds, before, after } of rows) {
      const share = shareAfter(odds, e * pull);
      const all = before + after;
      slope += (pull * (after - all * share)) / scatter;
      information += (pull * pull * all * share * (1 - share)) / scatter;
    }
    const move = slope / (information + 1 / prior.spread ** 2);
    e += Math.max(-0.5, Math.min(0.5, move));
    if (Math.abs(move) < 1e-6) break;
  }
  return { mean: e, spread: 1 / Math.sqrt(information + 1 / prior.spread ** 2) };
}

/** Share of the clicks that come after, of those before and after. */
function shareAfter(odds: number, pull: number): number {
  const grown = odds * Math.exp(Math.max(-20, Math.min(20, pull)));
  return grown / (1 + grown);
}

/** Log likelihood of e, without the prior. */
function likelihood(rows: readonly Pulled[], e: number, scatter: number): number {
  let sum = 0;
  for (const { pull, odds, before, after } of rows) {
    const share = shareAfter(odds, e * pull);
    sum += after * Math.log(share) + before * Math.log(1 - share);
  }
  return sum / scatter;
}

/** Pearson's chi-square over its degrees of freedom, at least 1. */
function scatterOf(rows: readonly Pulled[], e: number): number {
  let sum = 0;
  let count = 0;
  for (const { pull, odds, before, after } of rows) {
    const share = shareAfter(odds, e * pull);
    const all = before + after;
    if (all < 5) continue;
    sum += (after - all * share) ** 2 / (all * share * (1 - share));
    count++;
  }
  return count > 1 ? Math.max(1, sum / (count - 1)) : 1;
}

/**
 * e by likelihood: of a target's clicks before and after, those after are binomial with the share that exposure,
 * trend and r^e give them; e itself is Normal around the level above. Counts scatter more than Poisson (days differ),
 * so the likelihood is divided by the scatter seen, at least 1 (quasi-likelihood, McCullagh and Nelder 1989, 9.2).
 */
export function clicksElasticity(
  changes: readonly BidChange[],
  above: Elasticity,
  shape: Shape = usualShape,
): Elasticity {
  const rows = pulled(changes.filter(usable), shape);
  return fit(rows, above, scatterOf(rows, fit(rows, above, 1).mean));
}

/** Weight of the mean in what one target pays per bid, in clicks. */
const ownPaidWeight = 5;

/** What was paid per bid where bids were changed: the mean, by clicks, and each change's own, drawn to it. */
function withPaid(changes: readonly BidChange[]): { paid: number; changes: BidChange[] } {
  let [clicks, sum] = [0, 0];
  for (const { paid, before } of changes) {
    if (paid === null) continue;
    clicks += before.clicks;
    sum += before.clicks * paid;
  }
  const mean = clicks > 0 ? sum / clicks : usualShape.paid;
  return {
    paid: mean,
    changes: changes.map((change) => ({
      ...change,
      paid:
        ((change.paid ?? mean) * change.before.clicks + ownPaidWeight * mean) /
        (change.before.clicks + ownPaidWeight),
    })),
  };
}

const steps = Array.from({ length: 17 }, (_, i) => i);

/** Slope (in steps of 1) and fade (of a quarter) of the highest likelihood with their priors, in turn, twice. */
function shapeOf(changes: readonly BidChange[], paid: number, above: Elasticity): Shape {
  let shape: Shape = { ...usualShape, paid };
  const flat = pulled(changes, shape);
  const scatter = scatterOf(flat, fit(flat, above, 1).mean);
  const away = (value: number, { mean, spread }: Elasticity) => -((value - mean) ** 2) / (2 * spread ** 2);
  for (const name of ['fade', 'slope', 'fade', 'slope'] as const) {
    let best = -Infinity;
    const start = shape;
    for (const step of steps) {
      const tried = { ...start, [name]: step * (name === 'fade' ? 0.25 : 1) };
      const rows = pulled(changes, tried);
      const e = fit(rows, above, scatter).mean;
      const reached =
        likelihood(rows, e, scatter) +
        away(e, above) +
        away(tried.slope, usualSlope) +
        away(tried.fade, usualFade);
      if (reached > best) [best, shape] = [reached, tried];
    }
  }
  return shape;
}

/** ln of a click's price scatters by about this much between clicks of one target. */
const priceScatter = 0.4;

/** f by weighted least squares of ln(CPC after / CPC before) on ln r, around the level above. */
export function cpcElasticity(changes: readonly BidChange[], above: Elasticity): Elasticity {
  let weights = 1 / above.spread ** 2;
  let sum = above.mean * weights;
  for (const { ratio, before, after } of changes) {
    if (ratio <= 0 || ratio === 1 || before.spend <= 0 || after.spend <= 0) continue;
    const x = Math.log(ratio);
    const y = Math.log(after.spend / after.clicks / (before.spend / before.clicks));
    const weight = (before.clicks * after.clicks) / (before.clicks + after.clicks) / priceScatter ** 2;
    weights += weight * x * x;
    sum += weight * x * y;
  }
  return { mean: sum / weights, spread: Math.sqrt(1 / weights) };
}

/** What is believed of all, so that a level below can start from it. */
export interface ResponseBelief {
  clicks: Elasticity;
  cpc: Elasticity;
  shape: Shape;
}

/** How far a level's elasticities may lie from those of the level above. */
const levelSpread = { clicks: 0.3, cpc: 0.15 };

/**
 * The response of a level from its own bid changes, shrunk to the level above; null above: to the usual one. How
 * elasticities differ between targets and along a bid is learned of the whole account.
 */
export function learnResponse(changes: readonly BidChange[], above: ResponseBelief | null): ResponseBelief {
  const told = withPaid(changes.filter(usable));
  const from =
    above === null
      ? { clicks: usualClicks, cpc: usualCpc }
      : {
          clicks: { mean: above.clicks.mean, spread: Math.hypot(levelSpread.clicks, above.clicks.spread) },
          cpc: { mean: above.cpc.mean, spread: Math.hypot(levelSpread.cpc, above.cpc.spread) },
        };
  const shape = above === null ? shapeOf(told.changes, told.paid, from.clicks) : above.shape;
  return {
    clicks: clicksElasticity(told.changes, from.clicks, shape),
    cpc: cpcElasticity(told.changes, from.cpc),
    shape,
  };
}

export const responseOf = ({ clicks, cpc, shape }: ResponseBelief): Response => ({
  ...shape,
  clicks: Math.min(bounds.clicks[1], Math.max(bounds.clicks[0], clicks.mean)),
  cpc: Math.min(bounds.cpc[1], Math.max(bounds.cpc[0], cpc.mean)),
});
