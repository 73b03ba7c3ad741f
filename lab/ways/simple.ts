import type { View } from '../crowd/view.ts';

/** A way of working: once a week (or each night) it sets bids, by target. */
export interface Way {
  name: string;
  nightly?: boolean;
  decide: (view: View) => Map<number, number>;
  /** For the report: theta in force, where the way has one. */
  theta?: () => number | null;
}

export const nothing = (): Way => ({ name: 'do nothing', decide: () => new Map() });

/** Bands of ACOS over the last 30 settled days (domain, section 6.1). */
export const bands = (): Way => ({
  name: 'bands',
  decide: (view) => {
    const { targetAcos } = view.market;
    const bids = new Map<number, number>();
    for (const { id, bid } of view.market.targets) {
      const { clicks, spend, orders, sales } = view.sums(id, view.settledTo - 29, view.settledTo);
      if (clicks === 0) continue;
      const ratio = sales > 0 ? spend / sales / targetAcos : Infinity;
      const step = stepOf(ratio, clicks, orders);
      if (step !== 0) bids.set(id, bid * (1 + step));
    }
    return bids;
  },
});

function stepOf(ratio: number, clicks: number, orders: number): number {
  if (orders === 0) return clicks >= 20 ? -0.3 : 0;
  if (ratio > 3) return -0.18;
  if (ratio > 2) return -0.12;
  if (ratio > 1.4) return -0.06;
  return ratio < 0.75 && orders >= 3 ? 0.09 : 0;
}

/** bid = sales per click x target over the last 60 settled days, capped at 1.5 x the usual CPC (6.2). */
export const revenuePerClick = (): Way => ({
  name: 'revenue per click',
  decide: (view) => {
    const { targetAcos } = view.market;
    const bids = new Map<number, number>();
    for (const { id, bid } of view.market.targets) {
      const { clicks, spend, orders, sales } = view.sums(id, view.settledTo - 59, view.settledTo);
      if (clicks >= 10 && orders >= 2)
        bids.set(id, Math.min((sales / clicks) * targetAcos, (1.5 * spend) / clicks));
      else if (clicks >= 30 && orders === 0) bids.set(id, bid * 0.7);
    }
    return bids;
  },
});

/** Each night 10 % down where ACOS is over the target, 10 % up where it is well under. */
export const tenPercentNightly = (): Way => ({
  name: '10 % nightly',
  nightly: true,
  decide: (view) => {
    const { targetAcos } = view.market;
    const bids = new Map<number, number>();
    for (const { id, bid } of view.market.targets) {
      const { clicks, spend, sales } = view.sums(id, view.settledTo - 29, view.settledTo);
      if (clicks < 5) continue;
      const ratio = sales > 0 ? spend / sales / targetAcos : Infinity;
      if (ratio > 1.1) bids.set(id, bid * 0.9);
      else if (ratio < 0.8) bids.set(id, bid * 1.1);
    }
    return bids;
  },
});
