import { clamp } from '../metrics/clamp.ts';
import type { Micros } from '../metrics/money.ts';

/**
 * The evidence method (guide, section 6.3). The last click that a bid wins costs about the bid itself; spend is
 * placed best when bid / RPC is one number, theta, everywhere under one goal.
 */

/** theta x RPC / M, micros. RPC in micros per click, M the click-weighted mean of (1 + placement modifier). */
export const evidenceBid = (theta: number, rpc: number, modifier: number): Micros => (theta * rpc) / modifier;

/** Average CPC per bid: spend / sum(clicks x bid x M), within [0.4, 1]; 0.7 before anything was clicked. */
export function paidPerBid(spend: Micros, clicksTimesBid: number): number {
  return clicksTimesBid > 0 ? clamp(spend / clicksTimesBid, 0.4, 1) : 0.7;
}

/** theta = target / rho. */
export const startTheta = (targetAcos: number, rho: number): number => targetAcos / rho;

export interface Steering {
  theta: number;
  /** Expected ACOS of the days since the last round, share; null when it was not steered. */
  expectedAcos: number | null;
}

/**
 * One round of steering: theta x clamp((target / ACOS_s)^0.8, 0.8, 1.3), ACOS_s = spend / sum(clicks x RPC) over
 * the days since the last round (at least 7, at least 50 clicks; else theta stays).
 */
export function steerTheta(
  theta: number,
  targetAcos: number,
  since: { days: number; clicks: number; spend: Micros; expectedSales: Micros },
): Steering {
  if (since.days < 7 || since.clicks < 50 || since.expectedSales <= 0) return { theta, expectedAcos: null };
  const expectedAcos = since.spend / since.expectedSales;
  return { theta: theta * clamp((targetAcos / expectedAcos) ** 0.8, 0.8, 1.3), expectedAcos };
}

/** How a change of bid moves clicks and spend: clicks x r^e, CPC x r (guide, section 11; e = 1 +- 0.5). */
export function respond(
  clicks: number,
  spend: Micros,
  ratio: number,
  elasticity = 1,
): { clicks: number; spend: Micros } {
  const factor = ratio ** elasticity;
  return { clicks: clicks * factor, spend: spend * factor * ratio };
}
