import type { Series } from './follow.ts';

/** What organic ranks are worth to a product. */

/** A keyword's days: where the product stood (null: not found, or not told), and searches a day. */
export interface RankedKeyword {
  keyword: string;
  organicRank: Series;
  volume: Series;
}

const known = (series: Series): number[] => series.filter((value) => value !== null);
const mean = (values: readonly number[]): number =>
  values.length === 0 ? 0 : values.reduce((sum, value) => sum + value, 0) / values.length;

/** Searches in which a position is seen, as a share of those that the first is seen in: one by its position. */
export const seenAt = (rank: number): number => 1 / rank;

/**
 * Searches a day that see the product as the first position would be seen, over its keywords; null on days of which no
 * rank was told. A day's rank counts against the keyword's usual searches, so that the season does not pass for rank.
 */
export function visibility(keywords: readonly RankedKeyword[]): (number | null)[] {
  const days = Math.max(0, ...keywords.map(({ organicRank }) => organicRank.length));
  const usual = keywords.map(({ volume }) => mean(known(volume)));
  return Array.from({ length: days }, (_, day) => {
    let [sum, told] = [0, 0];
    for (const [at, { organicRank }] of keywords.entries()) {
      const rank = organicRank[day];
      if (rank === null || rank === undefined) continue;
      sum += usual[at]! * seenAt(rank);
      told++;
    }
    return told === 0 ? null : sum;
  });
}

/** A keyword with what its ads tell of its searchers: where they were shown, and what they ordered, a day each. */
export interface SellingKeyword extends RankedKeyword {
  sponsoredRank: Series;
  orders: readonly number[];
}

/** Orders of a usual keyword that each one's own are seen beside. */
const usualOrders = 4;

/**
 * Each keyword's share of what the product's ranks sell, 0 to 1, over the days from `from` to before `to`: searches x
 * what its position shows x how gladly its searchers buy. That is learned from ads over all days, orders for a search
 * that saw them, drawn to the product's mean. Searchers differ: by searches and position alone the shares of a crock
 * were wrong by 0.41 in sum, so by 0.11 (decision 025). Keywords that nobody follows are not in it.
 */
export function shareOfRanks(
  keywords: readonly SellingKeyword[],
  from = 0,
  to = Infinity,
): Map<string, number> {
  const shown = (ranks: Series): number[] => ranks.map((rank) => (rank === null ? 0 : seenAt(rank)));
  const sum = (values: readonly number[]): number => values.reduce((all, value) => all + value, 0);
  const told = keywords.map(({ keyword, organicRank, volume, sponsoredRank, orders }) => {
    const searches = mean(known(volume));
    return {
      keyword,
      seen: searches * mean(shown(organicRank.slice(from, to))),
      orders: sum(orders),
      adsSeen: searches * sum(shown(sponsoredRank)),
    };
  });
  const [orders, adsSeen] = [sum(told.map((one) => one.orders)), sum(told.map((one) => one.adsSeen))];
  const buys = (one: (typeof told)[number]): number =>
    orders > 0 && adsSeen > 0
      ? (one.orders + usualOrders) / (one.adsSeen + (usualOrders * adsSeen) / orders)
      : 1;
  const sells = told.map((one) => one.seen * buys(one));
  const all = sum(sells);
  return new Map(told.map(({ keyword }, at) => [keyword, all > 0 ? sells[at]! / all : 0]));
}

/** A better rank is a larger number here: half the position is always the same step. */
export const gained = (ranks: Series): (number | null)[] =>
  ranks.map((rank) => (rank === null ? null : -Math.log(rank)));

/** A series moved by so many days, to lie under one that it follows; what has no day any more is null. */
export const shifted = (series: Series, days: number): (number | null)[] =>
  series.map((_, day) => series[day + days] ?? null);
