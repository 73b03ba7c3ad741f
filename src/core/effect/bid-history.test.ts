import { describe, expect, test } from 'vitest';
import { addDays, type Day } from '../metrics/days.ts';
import { bidChanges, type BidStep, type HistoryDay } from './bid-history.ts';

const step = (day: Day, bid: number, outside = false): BidStep => ({ day, bid, outside });
/** So many days from one on, the same every day. */
const days = (from: Day, count: number, clicks: number, orders = 0): HistoryDay[] =>
  Array.from({ length: count }, (_, i) => ({
    day: addDays(from, i),
    clicks,
    spend: clicks * 10,
    orders,
    sales: orders * 200,
  }));

describe('what became of every change of a bid', () => {
  const first = '2026-09-01';
  const settledTo = '2026-10-31';

  test('whole weeks before and after, corrected by siblings', () => {
    // 10 clicks a day before the cut and 6 after it, while siblings fell to four fifths by themselves.
    const own = [...days(first, 30, 10, 1), ...days('2026-10-01', 31, 6, 1)];
    const siblings = [...days(first, 30, 20), ...days('2026-10-01', 31, 16)];
    const [change] = bidChanges(
      [step(first, 600_000), step('2026-10-01', 400_000)],
      own,
      siblings,
      first,
      settledTo,
    );
    expect(change).toMatchObject({ from: 600_000, bid: 400_000, weeks: 4, corrected: true });
    expect(change!.before).toEqual({ clicks: 70, spend: 700, orders: 7, sales: 1400 });
    expect(change!.after.clicks).toBe(42);
    // 70 would have become 56 anyway.
    expect(change!.expected.clicks).toBeCloseTo(56, 9);
    expect(change!.expected.spend).toBeCloseTo(560, 9);
  });

  test('as many weeks as lie between the changes beside it', () => {
    const steps = [step(first, 5), step('2026-09-20', 4), step('2026-10-05', 3, true), step('2026-10-20', 2)];
    const found = bidChanges(steps, days(first, 61, 5), [], first, settledTo);
    expect(found.map(({ weeks }) => weeks)).toEqual([2, 2, 1]);
    expect(found.map(({ outside }) => outside)).toEqual([false, true, false]);
    expect(found.every(({ corrected }) => !corrected)).toBe(true);
    expect(found[0]!.expected).toEqual(found[0]!.before);
  });

  test('nothing is said before a week is over and settled', () => {
    const found = bidChanges(
      [step(first, 5), step('2026-10-28', 4)],
      days(first, 61, 5),
      [],
      first,
      settledTo,
    );
    expect(found).toMatchObject([{ weeks: 0, after: { clicks: 0 } }]);
    expect(bidChanges([step(first, 5)], [], [], first, settledTo)).toEqual([]);
  });
});
