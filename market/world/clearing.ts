import type { Scenario } from '../scenario.ts';
import type { CatalogueItem } from './catalogue.ts';
import { rivalRank } from './auction.ts';
import { core, words } from './matching.ts';
import { stream } from './random.ts';
import type { Demand, Page, Query } from './shoppers.ts';

/** What a click would have taken in recent auctions, in the account's currency: to be seen at all, in the middle, at the top. */
export interface BidRange {
  low: number;
  middle: number;
  high: number;
}

const auctions = 120;
const quantile = (sorted: readonly number[], part: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(part * sorted.length))]!;
const toCents = (value: number): number => Math.max(0.03, Math.round(value * 100) / 100);

/**
 * What the rivals of a concept would have asked of one more bidder. `level`: of their bids today; `draw`: the bidder's
 * click-through beside the usual one. Rest of search is sold at 0.6 of the level (`searchAuction`).
 */
export function rangeOf(level: number, draw: number, name: string, seed: number): BidRange {
  const random = stream(seed, `clearing ${name}`);
  const above: number[] = [];
  const middle: number[] = [];
  const below: number[] = [];
  for (let i = 0; i < auctions; i++) {
    const top = Array.from({ length: 9 }, () => rivalRank(level, random)).sort((a, b) => b - a);
    const rest = Array.from({ length: 8 }, () => rivalRank(level * 0.6, random)).sort((a, b) => b - a);
    above.push(top[0]! / draw);
    middle.push(top[3]! / draw);
    below.push(rest[5]! / draw);
  }
  for (const list of [above, middle, below]) list.sort((a, b) => a - b);
  return {
    low: toCents(quantile(below, 0.5)),
    middle: toCents(quantile(middle, 0.5)),
    high: toCents(quantile(above, 0.5)),
  };
}

export interface KeywordSuggestion {
  keyword: string;
  monthlySearches: number;
  bid: BidRange;
}

export interface ItemSuggestion {
  item: CatalogueItem;
  monthlyVisits: number;
  bid: BidRange;
}

/** What is told of a target before it is made; null where nobody searches or visits it. */
export interface TargetAsked {
  kind: string;
  matchType: string | null;
  expression: string;
}

const toTen = (value: number): number => Math.round(value / 10) * 10;

/** What the marketplace knows of its shoppers, for one product of the account at a time. */
export class Advice {
  private byWord: Map<string, Query[]> | null = null;

  constructor(
    private readonly scenario: Scenario,
    private readonly demand: Demand,
    private readonly drift: readonly number[],
    private readonly item: (code: string) => CatalogueItem | undefined,
  ) {}

  private levelOf(entry: Query): number {
    return this.scenario.concepts[entry.concept]!.rivalBid * Math.exp(this.drift[entry.concept]!);
  }

  private bidOn(entry: Query, product: number, factor: number): BidRange {
    const draw = Math.max(0.05, entry.click[product]! / 0.02);
    return rangeOf(this.levelOf(entry) * factor, draw, `${entry.text} ${product}`, this.scenario.seed);
  }

  private monthly(entry: Query, sums: Float64Array, perDay: number): number {
    return toTen((30 * perDay * entry.popularity) / sums[sums.length - 1]!);
  }

  /** What shoppers of a product's kind type, most searched first. */
  keywords(product: number, most: number): KeywordSuggestion[] {
    return this.demand.queries
      .filter((query) => query.click[product]! > 0.004)
      .slice(0, most)
      .map((query) => ({
        keyword: query.text,
        monthlySearches: this.monthly(query, this.demand.cumulative, this.scenario.searchesPerDay),
        bid: this.bidOn(query, product, 1),
      }));
  }

  /** Items of other sellers that its shoppers look at too, most visited first. */
  items(product: number, most: number): ItemSuggestion[] {
    return this.demand.pages
      .filter((page) => page.own < 0 && page.click[product]! > 0.006)
      .sort((a, b) => b.popularity - a.popularity)
      .slice(0, most)
      .map((page) => ({
        item: this.item(page.text)!,
        monthlyVisits: this.visits(page),
        bid: this.bidOn(page, product, 0.5),
      }));
  }

  private visits(page: Page): number {
    return this.monthly(page, this.demand.pageCumulative, this.scenario.pageVisitsPerDay);
  }

  /** The bid range of a target that is not made yet: of the searches it would catch most. */
  bidFor(product: number, asked: TargetAsked): BidRange | null {
    if (asked.kind === 'item') {
      const page = this.demand.pages.find(({ text }) => text === asked.expression.toUpperCase());
      return page ? this.bidOn(page, product, 0.5) : null;
    }
    if (asked.kind !== 'keyword') return null;
    const needs = core(words(asked.expression));
    const exact = needs.join(' ');
    const query = this.withWord(needs[0] ?? '').find((one) => {
      const have = core(words(one.text));
      return asked.matchType === 'exact'
        ? have.join(' ') === exact
        : needs.every((need) => have.includes(need));
    });
    return query && query.click[product]! > 0 ? this.bidOn(query, product, 1) : null;
  }

  /** Searches that hold a word, most searched first. */
  private withWord(word: string): readonly Query[] {
    if (!this.byWord) {
      this.byWord = new Map();
      for (const query of this.demand.queries)
        for (const one of new Set(core(words(query.text)))) {
          const list = this.byWord.get(one);
          if (list) list.push(query);
          else this.byWord.set(one, [query]);
        }
    }
    return this.byWord.get(word) ?? [];
  }
}
