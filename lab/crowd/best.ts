import type { Market } from './market.ts';

/** Expected clicks, spend and sales of a week as things stand, at the market's present bids. */
export function expectedWeek(market: Market): { spend: number; sales: number; clicks: number } {
  let [clicks, spend, sales] = [0, 0, 0];
  for (const target of market.targets) {
    const week = market.week(target, target.bid);
    clicks += week.clicks;
    spend += week.spend;
    sales += week.sold * market.revenueAt(target);
  }
  return { clicks, spend, sales };
}

/** Sets the bids that sell most at the target, for whoever knows the truth of the present: bid = theta x revenue. */
export function setBest(market: Market): number {
  const set = (theta: number) => {
    for (const target of market.targets) {
      const bid = market.rounded(theta * market.revenueOf(target));
      target.bid = theta * market.revenueOf(target) < market.minimumBid ? 0 : bid;
    }
  };
  let [low, high] = [Math.log(market.targetAcos * 0.5), Math.log(market.targetAcos * 8)];
  for (let i = 0; i < 40; i++) {
    const middle = (low + high) / 2;
    set(Math.exp(middle));
    const { spend, sales } = expectedWeek(market);
    if (spend < market.targetAcos * sales) low = middle;
    else high = middle;
  }
  set(Math.exp(low));
  return Math.exp(low);
}
