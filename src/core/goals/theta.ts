import { clamp } from '../metrics/clamp.ts';
import type { Micros } from '../metrics/money.ts';

/** Theta: how much of a click's revenue a bid may be, one number per goal scope (domain, section 6.3). */

/** What a scope did since its last round, summed over its targets. Money in micros. */
export interface ScopeSums {
  /** Days since the last round. */
  days: number;
  clicks: number;
  spend: Micros;
  /** Sum of clicks x bid in force x modifiers. */
  bids: Micros;
  /** Sum of clicks x expected revenue per click: expected sales, so that luck and settling do not steer. */
  expectedSales: Micros;
  /** Of these, what came at bids that do not stand far above what theta asks. */
  following: { clicks: number; spend: Micros; expectedSales: Micros };
}

export const noSums = (days: number): ScopeSums => ({
  days,
  clicks: 0,
  spend: 0,
  bids: 0,
  expectedSales: 0,
  following: { clicks: 0, spend: 0, expectedSales: 0 },
});

/** Adds what one target did since the last round, in place. */
export function addToScope(
  sums: ScopeSums,
  theta: number,
  target: Pick<ScopeSums, 'clicks' | 'spend' | 'bids' | 'expectedSales'>,
): void {
  sums.clicks += target.clicks;
  sums.spend += target.spend;
  sums.bids += target.bids;
  sums.expectedSales += target.expectedSales;
  if (target.bids * leastInForce > theta * target.expectedSales) return;
  sums.following.clicks += target.clicks;
  sums.following.spend += target.spend;
  sums.following.expectedSales += target.expectedSales;
}

/** Paid per bid, rho: spend / sum(clicks x bid x M), within [0.4, 1]; 0.7 before anything was clicked. */
export function paidPerBid(spend: Micros, clicksTimesBid: number): number {
  return clicksTimesBid > 0 ? clamp(spend / clicksTimesBid, 0.4, 1) : 0.7;
}

/**
 * Theta starts at target / rho: all bids at one share of their revenue per click, with an ACOS of the target where a click
 * goes on costing rho of its bid. The guide's 1.3 times as much sold no more in the laboratory, and began a fifth over the
 * target (decision 017). No more than a scope may have unasked.
 */
export const startTheta = (targetAcos: number, rho: number, aboveOne: boolean): number =>
  Math.min(targetAcos / rho, mostTheta(targetAcos, aboveOne));

/**
 * Above 1 a last click costs more than it sells: that wants a person's word once. A target of 100 % and more has it
 * already.
 */
export const mostTheta = (targetAcos: number, aboveOne: boolean): number =>
  aboveOne ? Infinity : Math.max(1, targetAcos);

/** Theta as it was last steered or started, and the target it was steered to. */
export interface KnownTheta {
  theta: number;
  target_acos: number;
}

/**
 * A goal that was moved moves its theta in proportion; steering goes on from there. Not above what a scope may have
 * unasked: neither a goal moved far up nor a confirmation taken back leaves theta above 1.
 */
export function thetaAt(
  known: KnownTheta,
  targetAcos: number,
  aboveOne: boolean,
): { theta: number; held: boolean } {
  const moved = (known.theta * targetAcos) / known.target_acos;
  const most = mostTheta(targetAcos, aboveOne);
  return { theta: Math.min(moved, most), held: moved > most };
}

/** Why theta is what it is after a round. */
export type SteeringOutcome =
  | 'steered'
  /** Fewer than 7 days or 50 clicks since the last round. */
  | 'too little'
  /** It would move, and the bids that it asked for are not in force. */
  | 'not in force'
  /** It would rise above 1, and nobody has confirmed that. */
  | 'wants confirmation';

export interface Steered {
  theta: number;
  outcome: SteeringOutcome;
  /** Expected ACOS of the days since the last round, share; null when nothing was expected of them. */
  expectedAcos: number | null;
  /** Theta in force, F: sum(clicks x bid x M) / sum(clicks x RPC) over the same days. */
  inForce: number | null;
}

const leastDays = 7;
const leastClicks = 50;
/** Theta rises only while this share of it is in force: bids that nobody sent must not drive it. */
const leastInForce = 0.6;

/**
 * One round of steering (domain, section 6.3): theta x clamp((target / ACOS)^0.8, 0.8, 1.3), ACOS = spend / expected
 * sales since the last round. It rises only while it is in force, and above 1 only once that was confirmed. It falls by
 * what came at bids that follow it: a cut that nobody sent costs as much at any theta, and would only drag down all
 * others (lab: to a ninth within twelve weeks of half the lines unsent).
 */
export function steerTheta(before: number, targetAcos: number, since: ScopeSums, aboveOne: boolean): Steered {
  const { days, clicks, spend, bids, expectedSales } = since;
  const told = expectedSales > 0;
  const expectedAcos = told ? spend / expectedSales : null;
  const inForce = told ? bids / expectedSales : null;
  const stays = (outcome: SteeringOutcome): Steered => ({ theta: before, outcome, expectedAcos, inForce });
  if (days < leastDays || clicks < leastClicks || expectedAcos === null || expectedAcos <= 0)
    return stays('too little');
  const toward = (acos: number) => before * clamp((targetAcos / acos) ** 0.8, 0.8, 1.3);
  let theta = toward(expectedAcos);
  if (theta <= before) {
    const { following } = since;
    if (following.clicks < leastClicks || following.expectedSales <= 0) return stays('not in force');
    theta = Math.max(theta, toward(following.spend / following.expectedSales));
    return theta >= before ? stays('not in force') : { theta, outcome: 'steered', expectedAcos, inForce };
  }
  if (inForce! < leastInForce * before) return stays('not in force');
  const most = mostTheta(targetAcos, aboveOne);
  if (theta <= most) return { theta, outcome: 'steered', expectedAcos, inForce };
  return { theta: Math.max(before, most), outcome: 'wants confirmation', expectedAcos, inForce };
}
