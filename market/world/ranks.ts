import type { Scenario } from '../scenario.ts';
import { restOfSearch, topOfSearch } from './account.ts';
import { topSlots } from './auction.ts';
import type { Memory } from './day.ts';
import { normal, stream } from './random.ts';
import { round2 } from './rhythm.ts';
import type { Demand, Query } from './shoppers.ts';
import type { Tally } from './sums.ts';

/** Where a product stood for a keyword on a day; null: not found. */
export interface RankSum {
  sku: string;
  keyword: string;
  organicRank: number | null;
  sponsoredRank: number | null;
  /** Searches of the day, as the marketplace estimates them. */
  searchVolume: number;
}

/** Keywords whose positions are told, a product each. */
const perProduct = 12;
/** Searches that know positions: the rest is too rare to be followed. */
const headQueries = 600;
/** A standing of 1 is the first position; the least standing, 0.1, about the 30th. */
const steepness = 1.5;

const memo = new WeakMap<Demand, Map<string, { query: Query; product: number }>>();

/** The queries of the head that would bring a product the most visitors, by "product:query". */
export function watched(demand: Demand, products: number): Map<string, { query: Query; product: number }> {
  const known = memo.get(demand);
  if (known) return known;
  const found = new Map<string, { query: Query; product: number }>();
  for (let product = 0; product < products; product++)
    for (const query of demand.queries
      .slice(0, headQueries)
      .filter(({ click }) => click[product]! >= 0.004)
      .sort((a, b) => b.popularity * b.click[product]! - a.popularity * a.click[product]!)
      .slice(0, perProduct))
      found.set(`${product}:${query.text}`, { query, product });
  memo.set(demand, found);
  return found;
}

/** An ad was shown at this place: its position is remembered for the day's mean. */
export function keepPlace(tally: Tally, key: string, placement: number, position: number): void {
  if (placement !== topOfSearch && placement !== restOfSearch) return;
  const place = (tally.places[key] ??= [0, 0]);
  place[0]++;
  place[1] += (placement === topOfSearch ? 0 : topSlots) + position + 1;
}

/**
 * The day's positions. Drawn from a stream of their own for each product, keyword and day: telling them changes
 * nothing of the market. A product that is not listed is not found.
 */
export function rankDay(
  scenario: Scenario,
  demand: Demand,
  { organic, listed }: Memory,
  { places }: Tally,
  { day, volume }: { day: string; volume: number },
): RankSum[] {
  const total = demand.cumulative[demand.cumulative.length - 1]!;
  return [...watched(demand, scenario.products.length)].map(([key, { query, product }]) => {
    const { sku } = scenario.products[product]!;
    const random = stream(scenario.seed, `rank ${day} ${key}`);
    const standing = organic[key] ?? 0.15;
    const seen = Math.round(standing ** -steepness * Math.exp(0.06 * normal(random)));
    const place = places[key];
    const searches = (scenario.searchesPerDay * volume * 0.9 * query.popularity) / total;
    return {
      sku,
      keyword: query.text,
      organicRank: listed[product] ? Math.max(1, seen) : null,
      sponsoredRank: place ? Math.max(1, Math.round(round2(place[1] / place[0]))) : null,
      searchVolume: Math.round(searches * Math.exp(0.05 * normal(random))),
    };
  });
}
