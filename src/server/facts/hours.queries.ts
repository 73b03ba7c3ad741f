import type { Window } from '../../core/metrics/days.ts';
import type { CampaignDay, CampaignHour } from '../../core/budgets/hours.ts';
import { noCounts, type WeekCounts } from '../../core/hours/beliefs.ts';
import type { Database } from '../db/connection.ts';

/** For which share of the time each campaign had budget left, by id; those of whom no hours are known are left out. */
export async function shownTime(
  sql: Database,
  accountId: number,
  { from, to }: Window,
): Promise<Map<string, number>> {
  const rows = await sql<{ campaign_id: string; shown: number }[]>`
    select campaign_id::text, avg(minutes_in_budget)::float8 / 60 as shown from campaign_hour
    where account_id = ${accountId} and day between ${from} and ${to} and minutes_in_budget is not null
    group by campaign_id`;
  return new Map(rows.map(({ campaign_id, shown }) => [campaign_id, shown]));
}

/** What campaigns had by hour of the week, with budget and without. */
export async function campaignHours(
  sql: Database,
  accountId: number,
  { from, to }: Window,
): Promise<CampaignHour[]> {
  return sql<CampaignHour[]>`
    select campaign_id::text as "campaignId", extract(isodow from day)::int as weekday, hour::int as hour,
      sum(clicks)::float8 as clicks, sum(minutes_in_budget / 60.0)::float8 as shown,
      sum((60 - minutes_in_budget) / 60.0)::float8 as missed
    from campaign_hour
    where account_id = ${accountId} and day between ${from} and ${to} and minutes_in_budget is not null
    group by 1, 2, 3`;
}

/**
 * What campaigns had by hour of the week over a span, by id; orders also as they will be once all have come.
 *
 * @param maturity What is known of a day's orders, by day; null: all of them.
 * @param only Campaigns that are asked for; null: all.
 */
export async function weekCounts(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  maturity: ReadonlyMap<string, number> | null,
  only: readonly string[] | null,
): Promise<Map<string, WeekCounts>> {
  const grown = maturity ? [...maturity] : [];
  const rows = await sql<{ id: string; places: number[]; [name: string]: number[] | string }[]>`
    with known as (
      select * from unnest(${grown.map(([day]) => day)}::date[], ${grown.map(([, share]) => share)}::float8[]) k (day, share)),
    cell as (
      select h.campaign_id, (extract(isodow from h.day)::int - 1) * 24 + h.hour as place, sum(h.clicks)::float8 as clicks,
        sum(h.spend)::float8 as spend, sum(h.orders)::float8 as orders, sum(h.sales)::float8 as sales,
        -- Rounded: days are summed in any order, and the same days say the same.
        round(sum(h.orders / coalesce(k.share, 1))::numeric, 6)::float8 as grown
      from campaign_hour h left join known k using (day)
      where h.account_id = ${accountId} and h.day between ${from} and ${to}
        and ${only === null ? sql`true` : sql`h.campaign_id = any(${[...only]}::bigint[])`}
      group by 1, 2)
    select campaign_id::text as id, array_agg(place) as places, array_agg(clicks) as clicks, array_agg(spend) as spend,
      array_agg(orders) as orders, array_agg(sales) as sales, array_agg(grown) as grown
    from cell group by 1`;
  return new Map(
    rows.map(({ id, places, ...columns }) => {
      const counts = noCounts();
      for (const name of Object.keys(counts) as (keyof WeekCounts)[])
        places.forEach((place, at) => (counts[name][place] = (columns[name] as number[])[at]!));
      return [id, counts];
    }),
  );
}

/** What all campaigns had day by day, of days with hours. */
export async function hourDays(
  sql: Database,
  accountId: number,
  { from, to }: Window,
): Promise<{ day: string; weekday: number; clicks: number; orders: number }[]> {
  return sql`
    select day::text, extract(isodow from day)::int - 1 as weekday, sum(clicks)::float8 as clicks, sum(orders)::float8 as orders
    from campaign_hour where account_id = ${accountId} and day between ${from} and ${to} group by day order by day`;
}

/** What an ad group had by weekday, from Monday on. */
export async function adGroupWeekdays(
  sql: Database,
  accountId: number,
  adGroupId: string,
  { from, to }: Window,
): Promise<Record<'clicks' | 'spend' | 'orders' | 'sales', number>[]> {
  const rows = await sql<({ weekday: number } & Record<'clicks' | 'spend' | 'orders' | 'sales', number>)[]>`
    select extract(isodow from d.day)::int - 1 as weekday, sum(d.clicks)::float8 as clicks, sum(d.spend)::float8 as spend,
      sum(d.orders)::float8 as orders, sum(d.sales)::float8 as sales
    from target_day d
    where d.account_id = ${accountId} and d.day between ${from} and ${to} and d.target_id in (
      select target_id from target where account_id = ${accountId} and ad_group_id = ${adGroupId})
    group by 1`;
  const none = { clicks: 0, spend: 0, orders: 0, sales: 0 };
  return Array.from({ length: 7 }, (_, at) => rows.find(({ weekday }) => weekday === at) ?? none);
}

/** What products had in all by weekday, organic orders included: of one, or of all (null). */
export async function productWeekdays(
  sql: Database,
  accountId: number,
  sku: string | null,
  { from, to }: Window,
): Promise<{ sku: string; weekday: number; days: number; orders: number; sales: number }[]> {
  return sql`
    select sku, extract(isodow from day)::int - 1 as weekday, count(*)::int as days, sum(total_orders)::float8 as orders,
      sum(total_sales)::float8 as sales
    from product_day where account_id = ${accountId} and day between ${from} and ${to}
      and ${sku === null ? sql`true` : sql`sku = ${sku}`}
    group by 1, 2`;
}

interface DayRow {
  campaign_id: string;
  day: string;
  clicks: number;
  spend: number;
  orders: number;
  sales: number;
  minutes: number | null;
  shown: number;
  missed: number;
}

/**
 * Campaigns day by day, by id: what they had, and what part of an average day's clicks (`shares`, by hour of the week from
 * Monday on) fell into the time with budget and without. Where hours are not told, days of placements, all shown.
 */
export async function campaignDays(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  shares: readonly number[],
): Promise<Map<string, CampaignDay[]>> {
  const rows = await sql<DayRow[]>`
    with share as (
      select (n - 1) / 24 + 1 as weekday, (n - 1) % 24 as hour, share
      from unnest(${[...shares]}::float8[]) with ordinality s (share, n)),
    told as (
      select h.campaign_id, h.day, sum(h.clicks) as clicks, sum(h.spend) as spend, sum(h.orders) as orders,
        sum(h.sales) as sales, sum(h.minutes_in_budget) as minutes,
        sum(s.share * coalesce(h.minutes_in_budget, 60) / 60.0) as shown,
        sum(s.share * (60 - coalesce(h.minutes_in_budget, 60)) / 60.0) as missed
      from campaign_hour h join share s on s.weekday = extract(isodow from h.day) and s.hour = h.hour
      where h.account_id = ${accountId} and h.day between ${from} and ${to} group by 1, 2),
    untold as (
      select p.campaign_id, p.day, sum(p.clicks) as clicks, sum(p.spend) as spend, sum(p.orders) as orders,
        sum(p.sales) as sales, null::bigint as minutes, 1.0 as shown, 0.0 as missed
      from placement_day p where p.account_id = ${accountId} and p.day between ${from} and ${to}
        and not exists (select from told where told.day = p.day)
      group by 1, 2)
    select campaign_id::text, day::text, clicks::float8, spend::float8, orders::float8, sales::float8, minutes::int,
      shown::float8, missed::float8
    from (select * from told union all select * from untold) d order by campaign_id, day`;
  const found = new Map<string, CampaignDay[]>();
  for (const { campaign_id: id, ...day } of rows) {
    const own = found.get(id);
    if (own) own.push(day);
    else found.set(id, [day]);
  }
  return found;
}

/**
 * The last day on which a field of a campaign was changed, by campaign id: by a sheet, or elsewhere. A budget that was
 * answered by lower bids was decided upon: what that does has to be seen first.
 */
export async function fieldChanged(
  sql: Database,
  accountId: number,
  field: 'daily_budget' | 'schedule' | 'strategy',
): Promise<Map<string, string>> {
  const rows = await sql<{ campaign_id: string; day: string }[]>`
    select campaign_id, max(day)::text as day from (
      select l.campaign_id, s.sent_on as day from line l join sheet s using (account_id, sheet_id)
      where l.account_id = ${accountId} and l.state = 'applied' and l.action = 'update' and s.sent_on is not null
        and (l.entity = 'campaign' and l.field = ${field}
          or ${field} = 'daily_budget' and l.finding_key = 'budget:' || l.campaign_id)
      union all
      select object_id::text, day from outside_change
      where account_id = ${accountId} and entity = 'campaign' and field = ${field}) c
    group by campaign_id`;
  return new Map(rows.map(({ campaign_id, day }) => [campaign_id, day]));
}
