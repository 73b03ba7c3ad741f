import type { Day, Window } from '../../core/metrics/days.ts';
import type { Micros } from '../../core/metrics/money.ts';
import type { Database } from '../db/connection.ts';

export interface SoldDay {
  day: Day;
  sku: string;
  totalSales: Micros;
  totalUnits: number;
  /** What ads sold of the product, in whichever ad group; null where no report tells it. */
  adSold: Micros | null;
}

/** What products sold in all and through ads, by day; of some products or of all. */
export async function soldDays(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  skus: readonly string[] | null,
): Promise<SoldDay[]> {
  const wanted = skus && [...skus];
  return sql<SoldDay[]>`
    with sold as (
      select day, sku, sum(sales) as sales from sold_day
      where account_id = ${accountId} and day between ${from} and ${to} and (${wanted}::text[] is null or sku = any(${wanted}))
      group by day, sku),
    told as (select day from report_day where account_id = ${accountId} and kind = 'sold-daily')
    select p.day, p.sku, p.total_sales as "totalSales", p.total_units as "totalUnits",
      case when told.day is not null then coalesce(sold.sales, 0)::bigint end as "adSold"
    from product_day p left join sold using (day, sku) left join told on told.day = p.day
    where p.account_id = ${accountId} and p.day between ${from} and ${to} and (${wanted}::text[] is null or p.sku = any(${wanted}))`;
}

/** How far each product's ranks are seen, in the first and the last week of a window (core/organic/visibility). */
export async function seenOf(
  sql: Database,
  accountId: number,
  { from, to }: Window,
): Promise<{ sku: string; keywords: number; first: number; last: number }[]> {
  return sql`
    with told as (
      select sku, lower(keyword) as keyword, day, organic_rank,
        avg(search_volume) over (partition by sku, lower(keyword)) as usual
      from rank_day where account_id = ${accountId} and day between ${from} and ${to}),
    seen as (select sku, day, sum(coalesce(usual, 0) / organic_rank) as seen from told group by sku, day)
    select s.sku, max(k.keywords)::int as keywords,
      coalesce(avg(s.seen) filter (where s.day < ${from}::date + 7), 0)::float8 as first,
      coalesce(avg(s.seen) filter (where s.day > ${to}::date - 7), 0)::float8 as last
    from seen s join (select sku, count(distinct keyword) as keywords from told group by sku) k using (sku)
    group by s.sku`;
}

export interface RankRow {
  sku: string;
  keyword: string;
  day: Day;
  organic_rank: number | null;
  sponsored_rank: number | null;
  search_volume: number | null;
}

/** Ranks of products over some days, keywords in small letters. */
export async function rankRows(
  sql: Database,
  accountId: number,
  skus: readonly string[],
  { from, to }: Window,
): Promise<RankRow[]> {
  return sql<RankRow[]>`
    select sku, lower(keyword) as keyword, day, min(organic_rank) as organic_rank,
      min(sponsored_rank) as sponsored_rank, max(search_volume) as search_volume
    from rank_day
    where account_id = ${accountId} and sku = any(${[...skus]}) and day between ${from} and ${to}
    group by 1, 2, 3`;
}

/** What searches of some texts cost and ordered through the ads of some products, by day. */
export async function searchDays(
  sql: Database,
  accountId: number,
  skus: readonly string[],
  texts: readonly string[],
  { from, to }: Window,
): Promise<{ sku: string; keyword: string; day: Day; spend: Micros; orders: number }[]> {
  return sql`
    with wanted as materialized (
      select term_id, lower(text) as keyword from term
      where account_id = ${accountId} and text = any(${[...texts]})),
    own as materialized (
      select t.target_id, min(a.sku) as sku from product_ad a
      join target t on t.account_id = a.account_id and t.ad_group_id = a.ad_group_id
      where a.account_id = ${accountId} and a.sku = any(${[...skus]}) group by t.target_id)
    select o.sku, w.keyword, d.day, sum(d.spend)::bigint as spend, sum(d.orders)::int as orders
    from term_day d join wanted w using (term_id) join own o using (target_id)
    where d.account_id = ${accountId} and d.day between ${from} and ${to}
    group by 1, 2, 3`;
}

/** The keywords that are searched most among those whose ranks are told, with their products. */
export async function mostSearched(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  most: number,
): Promise<{ sku: string; keyword: string }[]> {
  return sql`
    select sku, lower(keyword) as keyword from rank_day
    where account_id = ${accountId} and day between ${from} and ${to} and organic_rank is not null
    group by 1, 2 order by sum(search_volume) desc nulls last, 1, 2 limit ${most}`;
}

/** The last day of which ranks or sales of products are told. */
export async function lastTold(sql: Database, accountId: number): Promise<Day | null> {
  const [row] = await sql<{ day: Day | null }[]>`
    select max(day) as day from (
      select day from product_day where account_id = ${accountId}
      union all select day from rank_day where account_id = ${accountId}) told`;
  return row?.day ?? null;
}
