import type { SheetGrade } from '../../answers/today.ts';
import type { Day, Window } from '../../core/metrics/days.ts';
import type { Micros } from '../../core/metrics/money.ts';
import type { Database } from '../db/connection.ts';

/** What products sold in all, organic in, by day. */
export async function productSales(
  sql: Database,
  accountId: number,
  from: Day,
): Promise<{ day: Day; sku: string; totalSales: Micros; totalOrders: number; totalUnits: number }[]> {
  return sql`
    select day, sku, total_sales as "totalSales", total_orders as "totalOrders", total_units as "totalUnits"
    from product_day where account_id = ${accountId} and day >= ${from}`;
}

/** The last sheets that were sent: what their scored lines were said to do a week, and what was seen. */
export async function sheetGrades(sql: Database, accountId: number, most: number): Promise<SheetGrade[]> {
  const rows = await sql<
    {
      sheet_id: number;
      sent_on: Day;
      lines: number;
      scored: number;
      said_spend: number;
      said_sales: number;
      seen_spend: number;
      seen_sales: number;
    }[]
  >`
    with last as (
      select sheet_id, sent_on from sheet
      where account_id = ${accountId} and state = 'sent' and sent_on is not null
      order by sheet_id desc limit ${most})
    select s.sheet_id, s.sent_on, count(l.line_id)::int as lines, count(f.line_id)::int as scored,
      coalesce(sum((f.said->>'spend')::float8), 0)::float8 as said_spend,
      coalesce(sum((f.said->>'sales')::float8), 0)::float8 as said_sales,
      coalesce(sum((f.seen->>'spend')::float8), 0)::float8 as seen_spend,
      coalesce(sum((f.seen->>'sales')::float8), 0)::float8 as seen_sales
    from last s
    left join line l on l.account_id = ${accountId} and l.sheet_id = s.sheet_id and l.state = 'applied'
    left join forecast f on f.account_id = ${accountId} and f.line_id = l.line_id
    group by s.sheet_id, s.sent_on order by s.sheet_id desc`;
  return rows.map((row) => ({
    sheetId: row.sheet_id,
    sentOn: row.sent_on,
    lines: row.lines,
    scored: row.scored,
    said: { spend: row.said_spend, sales: row.said_sales },
    seen: { spend: row.seen_spend, sales: row.seen_sales },
  }));
}

/** Units that products sold a day over a window, with what is in stock. */
export async function stockPace(
  sql: Database,
  accountId: number,
  { from, to }: Window,
): Promise<{ sku: string; title: string; stock: number; aDay: number }[]> {
  return sql`
    select p.sku, p.title, p.stock, coalesce(sum(d.total_units), 0)::float8 / (${to}::date - ${from}::date + 1) as "aDay"
    from product p left join product_day d on d.account_id = p.account_id and d.sku = p.sku
      and d.day between ${from} and ${to}
    where p.account_id = ${accountId} and p.stock is not null group by p.account_id, p.sku`;
}

/** Prices that moved since a day, as they were told. */
export async function priceMoves(
  sql: Database,
  accountId: number,
  from: Day,
): Promise<{ day: Day; sku: string; title: string; before: Micros; after: Micros }[]> {
  return sql`
    select day, sku, title, before, price as after from (
      select s.day, s.sku, p.title, s.price, lag(s.price) over (partition by s.sku order by s.day) as before
      from product_stock s join product p using (account_id, sku)
      where s.account_id = ${accountId} and s.price is not null) told
    where before is not null and before <> price and day >= ${from} order by day desc, sku`;
}

/** Each report, up to which day it was told, and when last. */
export async function reportsTold(
  sql: Database,
  accountId: number,
): Promise<{ kind: string; lastDay: Day; fetchedOn: Day }[]> {
  return sql`
    select kind, max(day) as "lastDay", max(as_of) as "fetchedOn" from report_day
    where account_id = ${accountId} group by kind order by kind`;
}

/** Campaigns that stopped between two days, by their end dates. */
export async function endedCampaigns(
  sql: Database,
  accountId: number,
  from: Day,
  to: Day,
): Promise<{ name: string; day: Day }[]> {
  return sql`
    select name, end_date as day from campaign
    where account_id = ${accountId} and end_date >= ${from} and end_date < ${to} and status <> 'archived'
    order by end_date desc, name limit 20`;
}

/** Campaigns with a lifetime budget or an end, and what the first have spent of it. */
export async function endingCampaigns(
  sql: Database,
  accountId: number,
  from: Day,
): Promise<
  {
    campaignId: string;
    name: string;
    endDate: Day | null;
    budget: Micros | null;
    spent: Micros;
    recent: Micros;
  }[]
> {
  return sql`
    select c.campaign_id::text as "campaignId", c.name, c.end_date as "endDate", c.lifetime_budget as budget,
      coalesce(sum(d.spend), 0)::bigint as spent,
      coalesce(sum(d.spend) filter (where d.day >= ${from}), 0)::bigint as recent
    from campaign c
    left join placement_day d on d.account_id = c.account_id and d.campaign_id = c.campaign_id
    where c.account_id = ${accountId} and c.status = 'enabled' and (c.end_date is not null or c.lifetime_budget is not null)
    group by c.account_id, c.campaign_id`;
}

/** Campaigns that run and have no last day. */
export async function endlessCampaigns(sql: Database, accountId: number): Promise<number> {
  const [row] = await sql<{ count: number }[]>`
    select count(*)::int as count from campaign
    where account_id = ${accountId} and status = 'enabled' and end_date is null`;
  return row!.count;
}

/** What campaigns or targets are called, by their ids, and where they stand. */
export async function objectNames(
  sql: Database,
  accountId: number,
  of: 'campaign' | 'target',
  ids: readonly string[],
): Promise<Map<string, { name: string; below: string }>> {
  const rows =
    of === 'campaign'
      ? await sql<{ id: string; name: string; below: string }[]>`
          select campaign_id::text as id, name, '' as below from campaign
          where account_id = ${accountId} and campaign_id = any(${[...ids]}::bigint[])`
      : await sql<{ id: string; name: string; below: string }[]>`
          select t.target_id::text as id, t.expression as name,
            concat_ws(' ', t.match_type, case when t.kind <> 'keyword' then t.kind end, '·', g.name) as below
          from target t join ad_group g using (account_id, ad_group_id)
          where t.account_id = ${accountId} and t.target_id = any(${[...ids]}::bigint[])`;
  return new Map(rows.map(({ id, ...row }) => [id, row]));
}
