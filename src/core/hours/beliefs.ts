import { cellFactors, type CellFactor, type UnitCounts } from '../evidence/factors.ts';
import { daysOfWeek, hoursOfDay, hoursOfWeek } from '../account/schedule.ts';

/** How much better a click sells at one time of the week than at another (domain, section 10). */

/** What a unit had over whole weeks of settled days, by hour of the week: 168 numbers each, money in micros. */
export interface WeekCounts {
  clicks: number[];
  spend: number[];
  /** As reported, and as they will be once all have come. */
  orders: number[];
  grown: number[];
  sales: number[];
}

export interface HourUnit {
  id: string;
  /** Units of one product are alike; empty where it advertises nothing by itself. */
  sku: string;
  counts: WeekCounts;
}

/** What a time sells beside the unit's mean. */
export interface TimeFactor {
  factor: number;
  /** Standard deviation of its natural logarithm. */
  spread: number;
}

/** Factors of a unit: of weekdays from Monday on, of hours, and of each hour of the week, of which 1 is the mean. */
export interface HourFactors {
  weekdays: TimeFactor[];
  hours: TimeFactor[];
  week: TimeFactor[];
}

export const noCounts = (): WeekCounts => {
  const none = () => Array<number>(hoursOfWeek).fill(0);
  return { clicks: none(), spend: none(), orders: none(), grown: none(), sales: none() };
};

/** Sums of several, in place of the first. */
export function addCounts(sum: WeekCounts, more: WeekCounts): WeekCounts {
  for (const name of Object.keys(sum) as (keyof WeekCounts)[])
    for (let at = 0; at < hoursOfWeek; at++) sum[name][at]! += more[name][at]!;
  return sum;
}

/**
 * Before an account has told, in expected orders: weekdays and hours sell as the mean does give or take 20 %, products
 * differ by 16 % from each other in that, campaigns of one by 13 %; an hour within its weekday by less.
 */
const usual = { rows: 60, levels: 40, sureOfOne: 25 };
const usualWithin = { rows: 200, levels: 100, sureOfOne: 100 };

/**
 * By how much days scatter more than chance lets them: what a day sells is shared by all its clicks, so that four Sundays
 * tell less than their clicks do. Chi-square by its degrees of freedom, at least 1; `days`: clicks and orders of all.
 */
export function dayScatter(days: readonly { weekday: number; clicks: number; orders: number }[]): number {
  let [chi, freedom] = [0, 0];
  for (let weekday = 0; weekday < daysOfWeek; weekday++) {
    const own = days.filter((day) => day.weekday === weekday && day.clicks > 0);
    const clicks = own.reduce((sum, day) => sum + day.clicks, 0);
    const orders = own.reduce((sum, day) => sum + day.orders, 0);
    if (own.length < 2 || orders <= 0) continue;
    freedom += own.length - 1;
    for (const day of own) {
      const expected = (day.clicks * orders) / clicks;
      chi += (day.orders - expected) ** 2 / expected;
    }
  }
  return freedom > 0 ? Math.max(1, chi / freedom) : 1;
}

/** Cells of a unit: what falls into each `part` of the hours of the week, clicks times what is expected of them there. */
function cellsOf(
  { id, sku, counts }: HourUnit,
  parts: number,
  partOf: (at: number) => number,
  scatter: number,
  expected: (at: number) => number,
): UnitCounts {
  const cells = Array.from({ length: parts }, (_, part) => ({
    cell: String(part),
    n: 0,
    y: 0,
    seenClicks: 0,
    seenOrders: 0,
  }));
  for (let at = 0; at < hoursOfWeek; at++) {
    const cell = cells[partOf(at)]!;
    const n = (counts.clicks[at]! * expected(at)) / scatter;
    cell.n += n;
    cell.seenClicks += n;
    cell.y += counts.grown[at]! / scatter;
    cell.seenOrders += counts.orders[at]! / scatter;
  }
  return { id, sku, cells };
}

const weekdayOf = (at: number): number => Math.floor(at / hoursOfDay);
const hourOf = (at: number): number => at % hoursOfDay;
const asTime = ({ factor, spread }: CellFactor): TimeFactor => ({ factor, spread });

/**
 * Factors of every unit: weekdays, then hours beside what their weekdays let expect, then hours within weekdays beside
 * both, each drawn to those of the product, of the account and to the mean. What an hour of a weekday sells is the product
 * of the three. Hours within weekdays are heard by product: a campaign alone has too few orders in each.
 *
 * @param scatter By how much days scatter more than chance (`dayScatter`).
 */
export function hourFactors(units: readonly HourUnit[], scatter: number): Map<string, HourFactors> {
  const weekdays = cellFactors(
    units.map((unit) => cellsOf(unit, daysOfWeek, weekdayOf, scatter, () => 1)),
    usual,
  );
  const hours = cellFactors(
    units.map((unit) => {
      const own = weekdays.get(unit.id)!;
      return cellsOf(unit, hoursOfDay, hourOf, scatter, (at) => own[weekdayOf(at)]!.factor);
    }),
    usual,
  );
  const expectedOf = (id: string) => {
    const [byDay, byHour] = [weekdays.get(id)!, hours.get(id)!];
    return (at: number) => byDay[weekdayOf(at)]!.factor * byHour[hourOf(at)]!.factor;
  };
  const products = new Map<string, HourUnit[]>();
  for (const unit of units) {
    const own = products.get(unit.sku);
    if (own) own.push(unit);
    else products.set(unit.sku, [unit]);
  }
  const within = cellFactors(
    [...products].map(([sku, own]) => productCells(sku, own, scatter, expectedOf)),
    usualWithin,
  );
  return new Map(
    units.map(({ id, sku }) => {
      const [byDay, byHour, inWeek] = [weekdays.get(id)!, hours.get(id)!, within.get(sku)!];
      const week = Array.from({ length: hoursOfWeek }, (_, at): TimeFactor => {
        const parts = [byDay[weekdayOf(at)]!, byHour[hourOf(at)]!, inWeek[at]!];
        return {
          factor: parts.reduce((product, { factor }) => product * factor, 1),
          spread: Math.hypot(...parts.map(({ spread }) => spread)),
        };
      });
      return [id, { weekdays: byDay.map(asTime), hours: byHour.map(asTime), week }];
    }),
  );
}

/** What a product's units had in each hour of the week, beside what each of them lets expect there. */
function productCells(
  sku: string,
  units: readonly HourUnit[],
  scatter: number,
  expectedOf: (id: string) => (at: number) => number,
): UnitCounts {
  const cells = Array.from({ length: hoursOfWeek }, (_, at) => ({
    cell: String(at),
    n: 0,
    y: 0,
    seenClicks: 0,
    seenOrders: 0,
  }));
  for (const unit of units) {
    const { clicks, orders } = unit.counts;
    const total = clicks.reduce((sum, one) => sum + one, 0);
    if (total <= 0) continue;
    const perClick = orders.reduce((sum, one) => sum + one, 0) / total;
    const own = cellsOf(unit, hoursOfWeek, (at) => at, scatter, expectedOf(unit.id)).cells;
    own.forEach(({ n, y, seenClicks, seenOrders }, at) => {
      const cell = cells[at]!;
      // Clicks of campaigns that sell unlike are made alike.
      cell.n += n * perClick * alike;
      cell.y += y;
      cell.seenClicks += seenClicks * perClick * alike;
      cell.seenOrders += seenOrders;
    });
  }
  return { id: sku, sku, cells };
}
/** Clicks of an expected order: so that sums keep the size of clicks. */
const alike = 10;
