import type { Micros } from '../metrics/money.ts';
import type { CampaignDay } from './hours.ts';

/** What a campaign missed while its budget was spent (domain, section 9). */

/**
 * What a product's other campaigns catch of the clicks that one misses: of one product one ad is shown for a search, so
 * that where the first is gone the next one stands in. By the hidden truth of four Quaysides whose budgets were all lifted
 * 0.60 to 0.68 (docs/lab/budgets.md); learned from hours in which siblings had run dry it came out as 0.06 to 0.48 there,
 * so it is not learned.
 */
export const caughtShare = 0.6;

export interface Lost {
  /** For which part of its clicks' time it had budget, 0 to 1; null where no minutes are told. */
  shown: number | null;
  /** Clicks that it missed over all its days, and their standard deviation. */
  clicks: number;
  spread: number;
  /** What each of its days would have spent with budget all day, micros, as its days stand. */
  full: Micros[];
  /** What a click cost; null without one. */
  cpc: Micros | null;
}

/** Days of one campaign differ by so much beyond chance, as a variance of their share, before its own tell: 20 %. */
const usualScatter = 0.04;
/** So many squared clicks of days weigh as much as that. */
const scatterWeight = 400;
const scatterBounds = [0.005, 1] as const;

/**
 * Clicks missed, from the campaign's own clicks in the time it had budget. A day that ran dry was a busy one: its own rate
 * is a Gamma about the campaign's, with the scatter of its days, read off what it had until then. What one day would have
 * brought is Poisson beyond that.
 *
 * @example lostOf([{ day: '2026-05-01', clicks: 10, spend: 5e6, orders: 0, sales: 0, minutes: 1440, shown: 1, missed: 0 }]).clicks // 0
 */
export function lostOf(days: readonly CampaignDay[]): Lost {
  const clicks = sum(days, (one) => one.clicks);
  const spend = sum(days, (one) => one.spend);
  const shown = sum(days, (one) => one.shown);
  const missed = sum(days, (one) => one.missed);
  const isTold = days.some(({ minutes }) => minutes !== null);
  const cpc = clicks > 0 ? spend / clicks : null;
  const part = isTold && shown + missed > 0 ? shown / (shown + missed) : null;
  if (cpc === null || shown <= 0 || missed <= 0)
    return { shown: part, clicks: 0, spread: 0, full: days.map((one) => one.spend), cpc };
  const rate = clicks / shown;
  const expected = days.map((one) => rate * one.shown);
  const squares = sum(expected, (mean) => mean ** 2);
  const beyond = sum(days, (one, at) => (one.clicks - expected[at]!) ** 2) - clicks;
  const scatter = Math.min(
    scatterBounds[1],
    Math.max(scatterBounds[0], (beyond + usualScatter * scatterWeight) / (squares + scatterWeight)),
  );
  const shape = 1 / scatter;
  let [lost, variance] = [0, 0];
  const full = days.map((one) => {
    if (one.missed <= 0) return one.spend;
    const [after, beforeOf] = [shape + one.clicks, shape / rate + one.shown];
    const own = (after / beforeOf) * one.missed;
    lost += own;
    variance += (after / beforeOf ** 2) * one.missed ** 2 + own;
    return one.spend + own * cpc;
  });
  // The campaign's own rate is shared by all its days.
  const shared = lost ** 2 * (1 / clicks + scatter / days.length);
  return { shown: part, clicks: lost, spread: Math.sqrt(variance + shared), full, cpc };
}

function sum<T>(list: readonly T[], of: (one: T, at: number) => number): number {
  let all = 0;
  for (let at = 0; at < list.length; at++) all += of(list[at]!, at);
  return all;
}

/** Mean of what days spend that would spend `full`, under a budget. Micros a day. */
export const spendUnder = (budget: Micros, full: readonly Micros[]): Micros =>
  full.length === 0 ? 0 : sum(full, (day) => Math.min(budget, day)) / full.length;
