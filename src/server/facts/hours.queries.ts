import type { Window } from '../../core/metrics/days.ts';
import type { CampaignDay, CampaignHour } from '../../core/budgets/hours.ts';
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

/** The last day on which a daily budget was changed, by campaign id: by a sheet, or elsewhere. */
export async function budgetsChanged(sql: Database, accountId: number): Promise<Map<string, string>> {
  const rows = await sql<{ campaign_id: string; day: string }[]>`
    select campaign_id, max(day)::text as day from (
      select l.campaign_id, s.sent_on as day from line l join sheet s using (account_id, sheet_id)
      where l.account_id = ${accountId} and l.entity = 'campaign' and l.field = 'daily_budget' and l.state = 'applied'
        and l.action = 'update' and s.sent_on is not null
      union all
      select object_id::text, day from outside_change
      where account_id = ${accountId} and entity = 'campaign' and field = 'daily_budget') c
    group by campaign_id`;
  return new Map(rows.map(({ campaign_id, day }) => [campaign_id, day]));
}
