import { addDays, daysBetween, type Day } from '../../core/metrics/days.ts';
import { daysOutOfStock } from '../../core/metrics/out-of-stock.ts';
import { seasonOf, type Season } from '../../core/metrics/season.ts';
import type { Database } from '../db/connection.ts';
import { productDays } from './evidence-days.queries.ts';

/** How much of the past tells of a season: two years, so that one of each year is in it. */
const seasonDays = 730;

type ProductRow = Awaited<ReturnType<typeof productDays>>[number];

/** Orders of a product by day, without a gap; null on days when it could not be sold. */
function ordersByDay(rows: readonly ProductRow[]): (number | null)[] {
  const first = rows[0]!.day;
  const days: (number | null)[] = Array.from({ length: daysBetween(first, rows.at(-1)!.day) + 1 }, () => 0);
  for (const { day, orders } of rows) days[daysBetween(first, day)] = orders;
  for (const day of daysOutOfStock(rows)) days[daysBetween(first, day)] = null;
  return days;
}

/** Seasons of products whose orders tell of one, by SKU; `skus` null: of all products. */
export async function seasonsOf(
  sql: Database,
  accountId: number,
  today: Day | null,
  skus: readonly string[] | null,
): Promise<Map<string, Season>> {
  if (today === null) return new Map();
  // The day itself is not over yet.
  const rows = await productDays(sql, accountId, addDays(today, -seasonDays), addDays(today, -1), skus);
  const bySku = new Map<string, ProductRow[]>();
  for (const row of rows) {
    const own = bySku.get(row.sku);
    if (own) own.push(row);
    else bySku.set(row.sku, [row]);
  }
  const found = new Map<string, Season>();
  for (const [sku, own] of bySku) {
    const season = seasonOf(own[0]!.day, ordersByDay(own));
    if (season) found.set(sku, season);
  }
  return found;
}
