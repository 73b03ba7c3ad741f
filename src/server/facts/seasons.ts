import { seasonOfUnits, type Season } from '../../core/kits/season.ts';
import { addDays, type Day } from '../../core/metrics/days.ts';
import type { Database } from '../db/connection.ts';

/** How much of the past tells of a season: two years, so that one of each year is in it. */
const seasonDays = 730;

/** Units of products by day, without a gap from the first day that is known; `skus` null: of all. */
const unitsByDay = (sql: Database, accountId: number, skus: readonly string[] | null, from: Day, to: Day) =>
  sql<{ sku: string; first: Day; units: number[] }[]>`
    with known as (
      select sku, day, sum(total_units)::int as units from product_day
      where account_id = ${accountId} and (${skus === null} or sku = any(${[...(skus ?? [])]}::text[]))
        and day between ${from} and ${to}
      group by sku, day),
    spans as (select sku, min(day) as first, max(day) as last from known group by sku)
    select s.sku, s.first::text as first, array_agg(coalesce(k.units, 0) order by d.day)::int[] as units
    from spans s cross join lateral generate_series(s.first, s.last, interval '1 day') d (day)
    left join known k on k.sku = s.sku and k.day = d.day::date
    group by s.sku, s.first order by s.sku`;

/** Seasons of products whose sales tell of one, by SKU; `skus` null: of all. */
export async function seasonsOf(
  sql: Database,
  accountId: number,
  today: Day | null,
  skus: readonly string[] | null,
): Promise<Map<string, Season>> {
  if (today === null) return new Map();
  const found = new Map<string, Season>();
  for (const { sku, first, units } of await unitsByDay(
    sql,
    accountId,
    skus,
    addDays(today, -seasonDays),
    today,
  )) {
    const season = seasonOfUnits(first, units);
    if (season) found.set(sku, season);
  }
  return found;
}
