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

/**
 * Each keyword's share of what the product's ranks show it to, 0 to 1, by keyword. As shares of the organic sales they
 * are at most: keywords that nobody follows take theirs from the same sales.
 */
export function shareOfRanks(keywords: readonly RankedKeyword[]): Map<string, number> {
  const seen = keywords.map(({ keyword, organicRank, volume }) => ({
    keyword,
    seen: mean(known(volume)) * mean(organicRank.map((rank) => (rank === null ? 0 : seenAt(rank)))),
  }));
  const all = seen.reduce((sum, one) => sum + one.seen, 0);
  return new Map(seen.map((one) => [one.keyword, all > 0 ? one.seen / all : 0]));
}

/** A better rank is a larger number here: half the position is always the same step. */
export const gained = (ranks: Series): (number | null)[] =>
  ranks.map((rank) => (rank === null ? null : -Math.log(rank)));

/** A series moved by so many days, to lie under one that it follows; what has no day any more is null. */
export const shifted = (series: Series, days: number): (number | null)[] =>
  series.map((_, day) => series[day + days] ?? null);
