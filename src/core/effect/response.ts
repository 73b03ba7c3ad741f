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
export const usualSlope: Elasticity = { mean: 8, spread: 3 };
export const usualFade: Elasticity = { mean: 1.5, spread: 1.5 };

/** How elasticities differ between the targets of a level, and along a bid. */
export type Shape = Pick<Response, 'slope' | 'fade' | 'paid'>;

export const usualShape: Shape = { slope: usualSlope.mean, fade: usualFade.mean, paid: 0.7 };
export const usualResponse: Response = { clicks: usualClicks.mean, cpc: usualCpc.mean, ...usualShape };

/** e of a target over e of its level, by what it pays per bid; 1 where that is not known. */
export const placeOf = ({ slope, paid }: Shape, own: number | null): number =>
  own === null ? 1 : Math.exp(slope * (Math.min(1, Math.max(0.1, own)) - paid));

/** Below nothing and beyond six an elasticity is no description of an auction. */
export const mostElasticity = 6;
export const responseBounds = { clicks: [0.05, mostElasticity], cpc: [0.05, 1.5] } as const satisfies Record<
  string,
  readonly [number, number]
>;

/** The response of one target: `paid` is its CPC over its effective bid, null where unknown. */
export const responseAt = (response: Response, paid: number | null): Response => ({
  ...response,
  clicks: Math.min(
    responseBounds.clicks[1],
    Math.max(responseBounds.clicks[0], response.clicks * placeOf(response, paid)),
  ),
  paid: paid ?? response.paid,
});

/** Mean of r^-fade along a change of bid from 1 to `ratio`, in logarithms: (1 - ratio^-fade) / (fade x ln ratio). */
export function fadeOver(fade: number, ratio: number): number {
  const x = fade * Math.log(ratio);
  return Math.abs(x) < 1e-9 ? 1 : -Math.expm1(-x) / x;
}

/** Elasticity of clicks over the whole of a change: clicks move by ratio^this. */
export const elasticityOver = ({ clicks, fade }: Response, ratio: number): number =>
  Math.min(responseBounds.clicks[1], clicks * fadeOver(fade, ratio));

/** Clicks and spend at a bid `ratio` times the present one. */
export function respond(
  week: { clicks: number; spend: Micros },
  ratio: number,
  response: Response,
): { clicks: number; spend: Micros } {
  const factor = ratio ** elasticityOver(response, ratio);
  return { clicks: week.clicks * factor, spend: week.spend * factor * ratio ** response.cpc };
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
