import type { Window, Day } from '../core/metrics/days.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { Following, Series } from '../core/organic/follow.ts';

/** What endpoints of organic ranks and sales answer. Money in micros. */

/** A product over the window: what ads cost and sold, what it sold without, and how far its ranks are seen. */
export interface OrganicProduct {
  sku: string;
  title: string;
  spend: Micros;
  adSales: Micros;
  /** Without an ad; null where all sales are not told. */
  organicSales: Micros | null;
  /** Keywords whose ranks are told. */
  keywords: number;
  /** Searches a day that see it as the first position would be seen, in the first and in the last week. */
  seen: { first: number; last: number } | null;
}

export interface OrganicAnswer {
  window: Window;
  /** Whether a report tells ranks at all. */
  isTold: boolean;
  products: OrganicProduct[];
}

/** What the rank of a keyword sells a week, about: keywords that nobody follows sell from the same sales. */
export interface RankWorth {
  sales: Micros;
  /** What these sales leave before ads; null where costs are unknown. */
  left: Micros | null;
}

export interface OrganicKeyword {
  keyword: string;
  organicRank: Series;
  sponsoredRank: Series;
  volume: Series;
  /** What its searches cost and ordered through ads of the product, a day each. */
  spend: Micros[];
  orders: number[];
  /** Its share of what the product’s ranks sell in the window; 0 to 1. */
  share: number;
  earns: RankWorth | null;
  /** How its rank followed what its searches cost; a better rank is a gain. */
  rankAfterSpend: Following;
}

/** What followed what over the whole account: what one product's days are too few to tell. */
export interface OrganicFollowing {
  keywords: number;
  products: number;
  rankAfterSpend: Following;
  salesAfterRank: Following;
}

/** A product on one time axis; arrays have a value a day. */
export interface OrganicProductAnswer {
  sku: string;
  title: string;
  window: Window;
  days: Day[];
  spend: Micros[];
  adSales: Series;
  organicSales: Series;
  units: Series;
  /** Searches that see it, as first positions; null where no rank is told. */
  seen: Series;
  keywords: OrganicKeyword[];
  /** Over its keywords together. */
  rankAfterSpend: Following;
  salesAfterRank: Following;
}
