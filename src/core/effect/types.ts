import type { Claim } from './claims.ts';
import type { Micros } from '../metrics/money.ts';

/** Standard deviations of a change per week, money in micros; profit null where costs are unknown. */
export interface Spreads {
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
  profit: Micros | null;
}

/** A week as it was expected to go on; money in micros. */
export interface ExpectedWeek {
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
  /** Clicks that its orders per click rest on, what was known beforehand counted in; absent on older lines. */
  rests?: number;
}

/** Change per week that a proposal should bring; money in micros, sales with the 80 % interval of their change. */
export interface Effect {
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
  salesLow: Micros;
  salesHigh: Micros;
  profit: Micros | null;
  /** What is not known of each; absent on lines of before forecasts had them. */
  spreads?: Spreads;
  /** What is not known of the week after it. */
  after?: Spreads;
  /** The week that it changes, as expected. */
  before?: ExpectedWeek;
  /** Of a change of terms: the clicks that it takes from the targets that caught them. */
  claims?: readonly Claim[];
}

/** What moving money brings that stays the same on the mean: between placements, between times of the week. */
export interface MoveOutcome {
  /** Of a week, micros; the ends of its 80 % interval, and the chance that it gains at all. */
  worth: Micros;
  worthLow: Micros;
  worthHigh: Micros;
  chance: number;
  /** Change a week: clicks, orders, money in micros; sales with the 80 % interval. */
  effect: {
    clicks: number;
    orders: number;
    spend: Micros;
    sales: Micros;
    low: Micros;
    high: Micros;
    /** Standard deviations: elasticities of single auctions differ. */
    clicksSpread: number;
    spendSpread: Micros;
  };
}
