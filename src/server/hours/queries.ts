import type { Day, Window } from '../../core/metrics/days.ts';
import type { HourOfDay } from '../../core/hours/after.ts';
import type { Database } from '../db/connection.ts';

export interface ScheduledCampaign {
  id: string;
  name: string;
  extId: string | null;
  /** As the marketplace writes it; null for none. */
  schedule: string | null;
  status: string;
}

/** Campaigns that are not archived, with their schedules. */
export async function scheduledCampaigns(sql: Database, accountId: number): Promise<ScheduledCampaign[]> {
  return sql<ScheduledCampaign[]>`
    select campaign_id::text as id, name, ext_id as "extId", schedule, status from campaign
    where account_id = ${accountId} and status <> 'archived' order by name`;
}

/** Schedules that the open sheet sets, by campaign; empty where it takes one away. */
export async function openSchedules(sql: Database, accountId: number): Promise<Map<string, string>> {
  const rows = await sql<{ id: string; schedule: string | null }[]>`
    select l.campaign_id::text as id, l.new_value as schedule from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and s.state in ('open', 'held', 'sending') and l.state in ('open', 'sending')
      and l.entity = 'campaign' and l.field = 'schedule' and l.action = 'update'`;
  return new Map(rows.map(({ id, schedule }) => [id, schedule ?? '']));
}

export interface ScheduleEvent {
  campaignId: string;
  day: Day;
  from: string | null;
  to: string | null;
}

/** Changes of schedules, by sheets and elsewhere, oldest first. */
export async function scheduleEvents(sql: Database, accountId: number): Promise<ScheduleEvent[]> {
  return sql<ScheduleEvent[]>`
    select campaign_id::text as "campaignId", day::text, old_value as from, new_value as to from (
      select l.campaign_id::bigint as campaign_id, s.sent_on as day, l.old_value, l.new_value, l.line_id as place
      from line l join sheet s using (account_id, sheet_id)
      where l.account_id = ${accountId} and l.entity = 'campaign' and l.field = 'schedule' and l.action = 'update'
        and l.state = 'applied' and s.sent_on is not null
      union all
      select object_id, day, nullif(old_value, ''), nullif(new_value, ''), 0 from outside_change
      where account_id = ${accountId} and entity = 'campaign' and field = 'schedule') e
    order by day, place`;
}

/** Hours of one campaign, or of all but some, day by day. */
export async function hoursBetween(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  of: { only: string } | { but: readonly string[] },
): Promise<HourOfDay[]> {
  const which =
    'only' in of ? sql`campaign_id = ${of.only}` : sql`campaign_id <> all(${[...of.but]}::bigint[])`;
  return sql<HourOfDay[]>`
    select day::text, hour::int, sum(clicks)::float8 as clicks, sum(spend)::float8 as spend, sum(orders)::float8 as orders,
      sum(sales)::float8 as sales
    from campaign_hour where account_id = ${accountId} and day between ${from} and ${to} and ${which}
    group by 1, 2`;
}

/** The first day of which hours are told; null without any. */
export async function firstHourDay(
  sql: Database,
  accountId: number,
  campaignId: string,
): Promise<Day | null> {
  const [row] = await sql<{ day: Day | null }[]>`
    select min(day)::text as day from campaign_hour where account_id = ${accountId} and campaign_id = ${campaignId}`;
  return row?.day ?? null;
}

/** Positions of a product's keywords, day by day. */
export async function positionsOf(
  sql: Database,
  accountId: number,
  sku: string,
  { from, to }: Window,
): Promise<{ keyword: string; day: Day; position: number | null; searches: number }[]> {
  return sql`
    select lower(keyword) as keyword, day::text, min(organic_rank)::float8 as position,
      coalesce(max(search_volume), 0)::float8 as searches
    from rank_day where account_id = ${accountId} and sku = ${sku} and day between ${from} and ${to}
    group by 1, 2`;
}

/** Orders of a product in all and those that its ads brought, day by day. */
export async function organicDays(
  sql: Database,
  accountId: number,
  sku: string,
  { from, to }: Window,
): Promise<{ day: Day; orders: number }[]> {
  return sql`
    with ads as (
      select d.day, sum(d.orders) as orders from campaign_hour d
      where d.account_id = ${accountId} and d.day between ${from} and ${to} and d.campaign_id in (
        select g.campaign_id from ad_group g join product_ad p using (account_id, ad_group_id)
        where g.account_id = ${accountId} and p.sku = ${sku})
      group by 1)
    select p.day::text, greatest(0, p.total_orders - coalesce(ads.orders, 0))::float8 as orders
    from product_day p left join ads using (day)
    where p.account_id = ${accountId} and p.sku = ${sku} and p.day between ${from} and ${to}`;
}
