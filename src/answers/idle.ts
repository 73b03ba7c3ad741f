import type { Day } from '../core/metrics/days.ts';
import type { RankWorth } from './organic.ts';
import type { Micros } from '../core/metrics/money.ts';

/** Days that are looked at, or since the bid was changed last. */
export const idleSpans = [14, 30, 60, 'change'] as const;
export type IdleSpan = (typeof idleSpans)[number];

/** Sums of every row, a column each. */
export interface IdleSums {
  clicks: Float64Array;
  /** Micros. */
  spend: Float64Array;
  orders: Float64Array;
  /** Clicks by how much of their orders is known. */
  weighted: Float64Array;
}

/** A target, or a term of a target, that was clicked and sold nothing. */
export interface IdleRow {
  /** As tables call it: the target's number, or what tables of terms call the pair. */
  key: string;
  /** The finding that a tolerance of it keeps out of the queue. */
  findingKey: string;
  name: string;
  matchType: string | null;
  kind: string;
  target: string;
  adGroup: string;
  campaign: string;
  sku: string | null;
  bid: Micros | null;
  changedOn: Day | null;
  clicks: number;
  spend: Micros;
  /** The chance that an average row beside it would have sold by now. */
  sold: number;
  /** Its bids as they changed, as tables write them; null where nothing did. */
  bids: string | null;
  isTolerated: boolean;
}

export interface IdleAnswer {
  count: number;
  clicks: number;
  spend: Micros;
  rows: IdleRow[];
}

/** A loss that is borne on purpose. */
export interface ToleranceRow {
  toleranceId: string;
  findingKey: string;
  name: string;
  matchType: string | null;
  adGroup: string;
  campaign: string;
  sku: string | null;
  /** Micros a week. */
  amount: Micros;
  reason: string;
  until: Day | null;
  since: Day;
  /** What it loses a week against its goal in the window; below 0 it gains. */
  loss: Micros;
  /** Why its findings are back in the queue; null while it holds. */
  back: 'beyond' | 'over' | null;
  /** Organic rank of its keyword for its product, now and at the window's beginning; null where it is not found or told. */
  rank: { first: number | null; last: number | null };
  /** What its rank sells a week; null where ranks or all sales were not told. */
  earns: RankWorth | null;
}
