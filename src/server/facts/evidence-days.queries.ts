import type { Day } from '../../core/metrics/days.ts';
import type { ProductDay } from '../../core/metrics/out-of-stock.ts';
import type { Database } from '../db/connection.ts';

/** Days of products, or of all (null), with page visits and all orders; stock where it was fetched. */
export async function productDays(
  sql: Database,
  accountId: number,
  from: Day,
  to: Day,
  skus: readonly string[] | null = null,
): Promise<(ProductDay & { sku: string })[]> {
  const asked = sql`(${skus === null} or sku = any(${[...(skus ?? [])]}::text[]))`;
  return sql`
    select sku, day::text as day, coalesce(p.sessions, 0) as sessions, coalesce(p.total_orders, 0) as orders, s.stock
    from (select sku, day, sessions, total_orders from product_day
          where account_id = ${accountId} and day between ${from} and ${to} and ${asked}) p
    full join (select sku, day, stock from product_stock
          where account_id = ${accountId} and day between ${from} and ${to} and ${asked}) s using (sku, day)
    order by sku, day`;
}

/** What was in stock on a day, by SKU, as it was told last by then. */
export async function stockOn(sql: Database, accountId: number, day: Day): Promise<Map<string, number>> {
  const rows = await sql<{ sku: string; stock: number }[]>`
    select distinct on (sku) sku, stock from product_stock
    where account_id = ${accountId} and day <= ${day} and stock is not null order by sku, day desc`;
  return new Map(rows.map(({ sku, stock }) => [sku, stock]));
}

/** Days of which something was told about products. */
export async function productToldDays(sql: Database, accountId: number, from: Day, to: Day): Promise<Day[]> {
  const rows = await sql<{ day: Day }[]>`
    select distinct day::text as day from product_day
    where account_id = ${accountId} and day between ${from} and ${to} order by day`;
  return rows.map(({ day }) => day);
}

/** Every product that an ad group advertises. */
export async function advertised(
  sql: Database,
  accountId: number,
): Promise<{ ad_group_id: string; sku: string }[]> {
  return sql`
    select ad_group_id::text, sku from product_ad where account_id = ${accountId} and status = 'enabled'`;
}

/** Days that reports of targets have told, of some last ones. */
export async function toldDays(sql: Database, accountId: number, from: Day, to: Day): Promise<Set<Day>> {
  const rows = await sql<{ day: Day }[]>`
    select day::text as day from report_day
    where account_id = ${accountId} and kind = 'targets-daily' and day between ${from} and ${to}`;
  return new Set(rows.map(({ day }) => day));
}

/**
 * Bids in force by target: (after, until] and the bid, for targets changed since a day; `now` is the present bid. What
 * was bid before the first bid known is taken to be that one; empty ends are open.
 */
export async function bidsInForce(
  sql: Database,
  accountId: number,
  from: Day,
): Promise<{ targetId: number; now: number; bid: number; after: Day | null; until: Day | null }[]> {
  return sql`
    with moved as materialized (
      select target_id, bid from target
      where account_id = ${accountId} and bid > 0 and bid_changed_on >= ${from}::date and status <> 'archived')
    select b.target_id as "targetId", m.bid as now, b.bid,
      case when row_number() over by_day = 1 then null else b.day end as after, lead(b.day) over by_day as until
    from target_bid b join moved m using (target_id) where b.account_id = ${accountId} and b.bid > 0
    window by_day as (partition by b.target_id order by b.day)`;
}
