import { halfLife } from '../metrics/maturity.ts';
import type { Gamma } from '../evidence/gamma.ts';
import type { Week } from '../effect/weekly.ts';
import type { Micros } from '../metrics/money.ts';

/** Days that a test takes: two of every weekday. */
export const testDays = 14;
export const testWeeks = testDays / 7;
/** Nobody looks through more in a week. */
const mostTests = 1000;
/** Weeks in which what was learned counts: evidence halves every 45 days, so it lasts 45 / ln 2 days. */
export const remembered = halfLife / Math.LN2 / 7;

/** A test that could be made: what it costs and what it may bring, micros. */
export interface PossibleTest {
  targetId: string;
  /** Spend a week while it runs. */
  spend: Micros;
  /** What is gained over all the time in which the outcome counts, less what the test itself loses. */
  gain: Micros;
}

/** A bid that is tried for some days, to know. */
export interface TestPlan extends PossibleTest {
  /** Micros. */
  from: Micros;
  to: Micros;
  /** The bid without a test. */
  ordinary: Micros;
  isRested: boolean;
  /** Clicks and spend a week without a test, and with it; money in micros. */
  before: Week;
  after: Week;
  /** Orders of the days of the test, as expected. */
  orders: number;
  /** Knowing, a week, micros; and what the test itself loses a week, below 0 what it earns. */
  knowing: Micros;
  loss: Micros;
}

/** What is kept of a test beside its line: what was believed before, and what was expected. Money in micros. */
export interface KeptTest {
  isRested: boolean;
  /** The bid without a test. */
  ordinary: Micros;
  gamma: Gamma;
  value: Micros;
  theta: number;
  modifier: number;
  /** Clicks, spend and orders of its days, as expected. */
  clicks: number;
  spend: Micros;
  orders: number;
}

/** What a test is worth a week of the time in which its outcome counts, micros. */
export const worthOfTest = ({ gain }: Pick<TestPlan, 'gain'>): Micros => gain / remembered;

/**
 * The tests that gain most for what they spend, together within a week's spend, 1,000 at most; a test that does not fit
 * makes room for smaller ones after it. None that gains nothing.
 * @example withinShare([{ targetId: 'a', spend: 6, gain: 12 }, { targetId: 'b', spend: 5, gain: 15 }], 8).map((one) => one.targetId) // ['b']
 */
export function withinShare<T extends PossibleTest>(possible: readonly T[], spend: Micros): T[] {
  const perSpend = ({ gain, spend: own }: T) => (own > 0 ? gain / own : Infinity);
  const best = possible
    .filter(({ gain }) => gain > 0)
    .sort((a, b) => perSpend(b) - perSpend(a) || (a.targetId < b.targetId ? -1 : 1));
  let left = spend;
  return best
    .filter((one) => {
      if (one.spend > left) return false;
      left -= one.spend;
      return true;
    })
    .slice(0, mostTests);
}
