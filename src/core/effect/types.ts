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
