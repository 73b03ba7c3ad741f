import { clamp } from '../metrics/clamp.ts';
import type { Micros } from '../metrics/money.ts';
import {
  fadeOver,
  placeOf,
  responseBounds,
  trendOf,
  usualClicks,
  usualCpc,
  usualFade,
  usualShape,
  usualSlope,
  type Elasticity,
  type Response,
  type Shape,
} from './response.ts';
import { movedApart, untouchedAlone, type Untouched } from './substitution.ts';

/** How an account's response is learned from its own bid changes (domain, section 11). */

/** One bid that was changed: whole weeks before and after; what its untouched siblings did meanwhile. */
export interface BidChange {
  /** New bid over old bid. */
  ratio: number;
  /** CPC over the old effective bid in the weeks before; null where nothing was clicked. */
  paid: number | null;
  before: { days: number; clicks: number; spend: Micros };
  after: { days: number; clicks: number; spend: Micros };
  /** What nobody touched meanwhile. */
  untouched: Untouched;
  /** Mean ln of new over old bid of the product's other targets, and how far they answer the same terms, 0 to 1. */
  others: number;
  overlap: number;
}

/** A change as the likelihood sees it: `pull` is what ln clicks moves by per unit of e. */
interface Pulled {
  pull: number;
  /** Of exposure and trend alone. */
  odds: number;
  before: number;
  after: number;
}

const usable = ({ ratio, before, after }: BidChange): boolean =>
  ratio > 0 && ratio !== 1 && before.clicks + after.clicks > 0 && before.days > 0 && after.days > 0;

/** What the likelihood of one elasticity takes for known: e and s, and how e differs between targets. */
interface Known {
  elasticity: number;
  share: number;
  shape: Shape;
}

/** How far what answers the same terms was outbid, and what is left of a bid's own move. */
function movesOf({ ratio, others, overlap }: BidChange): { apart: number; along: number } {
  const own = Math.log(ratio);
  const apart = movedApart(overlap, own, others);
  return { apart, along: (own - apart) / own };
}

/** By how much exposure and the market moved clicks; substitution is taken out of what nobody touched. */
function oddsOf({ before, after, untouched }: BidChange, { elasticity, share }: Known): number {
  const alone = untouchedAlone(untouched, elasticity, { share });
  return (after.days / before.days) * trendOf(alone.before, alone.after);
}

/** What a product wins by a move of its bids, as e pulls at it. */
const pullOf = ({ ratio, paid }: BidChange, shape: Shape, along: number): number =>
  placeOf(shape, paid) * fadeOver(shape.fade, ratio) * Math.log(ratio) * along;

/** Rows that tell of e, what is known of substitution taken as given. */
const pulled = (changes: readonly BidChange[], known: Known): Pulled[] =>
  changes.map((change) => {
    const { apart, along } = movesOf(change);
    return {
      pull: pullOf(change, known.shape, along),
      odds: oddsOf(change, known) * Math.exp(known.share * apart),
      before: change.before.clicks,
      after: change.after.clicks,
    };
  });

/** The same changes as they tell of s, e taken as given. */
const apartRows = (changes: readonly BidChange[], known: Known): Pulled[] =>
  changes.map((change) => {
    const { apart, along } = movesOf(change);
    const won = known.elasticity * pullOf(change, known.shape, along);
    return {
      pull: apart,
      odds: oddsOf(change, known) * Math.exp(won),
      before: change.before.clicks,
      after: change.after.clicks,
    };
  });

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
  known: Omit<Known, 'elasticity'> = { share: usualShare.mean, shape: usualShape },
): Elasticity {
  const told = changes.filter(usable);
  const fitted = (scatter: (rows: readonly Pulled[]) => number, elasticity: number) => {
    const rows = pulled(told, { ...known, elasticity });
    return fit(rows, above, scatter(rows));
  };
  const first = fitted(() => 1, above.mean);
  return fitted((rows) => scatterOf(rows, first.mean), first.mean);
}

/** What is believed of the share's elasticity before an account has told: one bid moved alone at Quayside: 2 to 4. */
export const usualShare: Elasticity = { mean: 2, spread: 1 };

/** s by the same likelihood, from how far bids moved apart from those of their product. */
export function shareElasticity(changes: readonly BidChange[], known: Known): Elasticity {
  const rows = apartRows(changes.filter(usable), known);
  return fit(rows, usualShare, scatterOf(rows, fit(rows, usualShare, 1).mean));
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
function shapeOf(changes: readonly BidChange[], paid: number, above: Elasticity, share: number): Shape {
  let shape: Shape = { ...usualShape, paid };
  const known = { elasticity: above.mean, share };
  const flat = pulled(changes, { ...known, shape });
  const scatter = scatterOf(flat, fit(flat, above, 1).mean);
  const away = (value: number, { mean, spread }: Elasticity) => -((value - mean) ** 2) / (2 * spread ** 2);
  for (const name of ['fade', 'slope', 'fade', 'slope'] as const) {
    let best = -Infinity;
    const start = shape;
    for (const step of steps) {
      const tried = { ...start, [name]: step * (name === 'fade' ? 0.25 : 1) };
      const rows = pulled(changes, { ...known, shape: tried });
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
  /** How a target's share of its product's clicks answers: the account's. */
  share: Elasticity;
}

/** How far a level's elasticities may lie from those of the level above. */
const levelSpread = { clicks: 0.3, cpc: 0.15 };

/** Rounds in which e and s are fitted in turn: each is known to a hundredth after three. */
const turns = 3;

/**
 * The response of an account from its own bid changes. Before it made any, a product is believed to win of a raise what
 * does not come from its own other targets: the usual elasticity of one target x (1 - overlap).
 */
export function learnAccountResponse(changes: readonly BidChange[], overlap: number): ResponseBelief {
  const told = withPaid(changes.filter(usable));
  const usual = { mean: usualClicks.mean * (1 - overlap), spread: usualClicks.spread * (1 - overlap / 2) };
  let share = usualShare;
  let clicks: Elasticity = usual;
  let shape: Shape = { ...usualShape, paid: told.paid };
  // Where nothing answers the same terms, s has no say and the first turn says it all.
  const enough = told.changes.some((change) => change.overlap > 0) ? turns : 1;
  for (let turn = 0; turn < enough; turn++) {
    shape = shapeOf(told.changes, told.paid, usual, share.mean);
    clicks = clicksElasticity(told.changes, usual, { share: share.mean, shape });
    share = shareElasticity(told.changes, { elasticity: clicks.mean, share: share.mean, shape });
  }
  return { clicks, shape, share, cpc: cpcElasticity(told.changes, usualCpc) };
}

/**
 * The response of a level from its own bid changes, shrunk to the level above. How elasticities differ between targets
 * and along a bid, and how shares answer, is learned of the whole account.
 */
export function learnResponse(changes: readonly BidChange[], above: ResponseBelief): ResponseBelief {
  const told = withPaid(changes.filter(usable));
  const from = (name: 'clicks' | 'cpc'): Elasticity => ({
    mean: above[name].mean,
    spread: Math.hypot(levelSpread[name], above[name].spread),
  });
  return {
    ...above,
    clicks: clicksElasticity(told.changes, from('clicks'), { share: above.share.mean, shape: above.shape }),
    cpc: cpcElasticity(told.changes, from('cpc')),
  };
}

export const responseOf = ({ clicks, cpc, shape }: ResponseBelief): Response => ({
  ...shape,
  clicks: clamp(clicks.mean, ...responseBounds.clicks),
  cpc: clamp(cpc.mean, ...responseBounds.cpc),
});
