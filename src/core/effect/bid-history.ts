import { addDays, daysBetween, type Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';

/** What became of every change of a bid: whole weeks before and after, corrected by siblings that stayed as they were. */

/** A bid from a day on. */
export interface BidStep {
  day: Day;
  bid: Micros;
  /** Changed at the marketplace, by no sheet. */
  outside: boolean;
}

/** What a day brought. Money in micros. */
export interface HistoryDay {
  day: Day;
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
}

/** Figures of a week. */
export type HistoryWeek = Omit<HistoryDay, 'day'>;

export interface BidChange extends BidStep {
  from: Micros;
  /** Whole weeks that were compared; 0 while none is over and settled. */
  weeks: number;
  before: HistoryWeek;
  after: HistoryWeek;
  /** What the weeks before would have become by how siblings moved; as they were where these tell too little. */
  expected: HistoryWeek;
  /** Whether siblings corrected it. */
  corrected: boolean;
}

const mostWeeks = 4;
/** Siblings with fewer clicks in the weeks before say too little of how the market moved. */
const leastSiblingClicks = 30;

const figures = ['clicks', 'spend', 'orders', 'sales'] as const;
const none = (): HistoryWeek => ({ clicks: 0, spend: 0, orders: 0, sales: 0 });

/** Sums of [from, from + days), a week each. */
function weekOf(rows: readonly HistoryDay[], from: Day, weeks: number): HistoryWeek {
  const sum = none();
  const to = addDays(from, 7 * weeks);
  for (const row of rows)
    if (row.day >= from && row.day < to) for (const name of figures) sum[name] += row[name] / weeks;
  return sum;
}

/**
 * Each change of a bid with what came of it (domain, section 11): as many whole settled weeks before as after, at most
 * four, between the changes next to it.
 *
 * @param steps Bids in the order of their days, the first is where the history begins.
 * @param days Days of the target itself; `siblings`: of targets beside it whose bids stayed.
 * @param settledTo Days after it do not count.
 */
export function bidChanges(
  steps: readonly BidStep[],
  days: readonly HistoryDay[],
  siblings: readonly HistoryDay[],
  firstDay: Day,
  settledTo: Day,
): BidChange[] {
  return steps.slice(1).map((step, i): BidChange => {
    const begins = i === 0 ? firstDay : steps[i]!.day;
    const ends = steps[i + 2]?.day ?? addDays(settledTo, 1);
    const settled = ends > addDays(settledTo, 1) ? addDays(settledTo, 1) : ends;
    const weeks = Math.max(
      0,
      Math.min(
        mostWeeks,
        Math.floor(daysBetween(begins, step.day) / 7),
        Math.floor(daysBetween(step.day, settled) / 7),
      ),
    );
    const from = steps[i]!.bid;
    if (weeks === 0)
      return { ...step, from, weeks, before: none(), after: none(), expected: none(), corrected: false };
    const start = addDays(step.day, -7 * weeks);
    const [before, after] = [weekOf(days, start, weeks), weekOf(days, step.day, weeks)];
    const [was, is] = [weekOf(siblings, start, weeks), weekOf(siblings, step.day, weeks)];
    const corrected = was.clicks * weeks >= leastSiblingClicks;
    const expected = { ...before };
    // Clicks and orders are moved by what siblings' clicks did, money by what their money did.
    if (corrected)
      for (const [name, by] of [
        ['clicks', 'clicks'],
        ['orders', 'clicks'],
        ['spend', 'spend'],
        ['sales', 'clicks'],
      ] as const)
        if (was[by] > 0) expected[name] *= is[by] / was[by];
    return { ...step, from, weeks, before, after, expected, corrected };
  });
}
