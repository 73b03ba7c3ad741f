import { addDays, daysBetween, type Day } from '../../core/metrics/days.ts';
import { daysOutOfStock } from '../../core/metrics/out-of-stock.ts';
import { seasonOf, type Season } from '../../core/metrics/season.ts';
import type { Database } from '../db/connection.ts';
import { productDays, productToldDays } from './evidence-days.queries.ts';

/** How much of the past tells of a season: two years, so that one of each year is in it. */
const seasonDays = 730;

type ProductRow = Awaited<ReturnType<typeof productDays>>[number];

/** Orders of a product by day, without a gap; null on days when it could not be sold, or of which nothing was told. */
function ordersByDay(rows: readonly ProductRow[], told: readonly Day[]): (number | null)[] {
  const first = rows[0]!.day;
  const last = rows.at(-1)!.day;
  const days = Array.from({ length: daysBetween(first, last) + 1 }, (): number | null => null);
  for (const day of told) if (day >= first && day <= last) days[daysBetween(first, day)] = 0;
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
  const [from, to] = [addDays(today, -seasonDays), addDays(today, -1)];
  const [rows, told] = await Promise.all([
    productDays(sql, accountId, from, to, skus),
    productToldDays(sql, accountId, from, to),
  ]);
  const bySku = new Map<string, ProductRow[]>();
  for (const row of rows) {
    const own = bySku.get(row.sku);
    if (own) own.push(row);
    else bySku.set(row.sku, [row]);
  }
  const found = new Map<string, Season>();
  for (const [sku, own] of bySku) {
    const season = seasonOf(own[0]!.day, ordersByDay(own, told));
    if (season) found.set(sku, season);
  }
  return found;
}
