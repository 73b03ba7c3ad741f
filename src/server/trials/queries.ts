import type { Day, Window } from '../../core/metrics/days.ts';
import type { DayFigures } from '../../core/trials/compare.ts';
import type { TrialPlan } from '../../core/trials/trials.ts';
import type { Database, Transaction } from '../db/connection.ts';

export interface KeptTrial extends TrialPlan {
  trialId: number;
  decided: 'kept' | 'taken_back' | null;
}

/** Trials that are not taken away, the newest first. */
export async function keptTrials(sql: Database | Transaction, accountId: number): Promise<KeptTrial[]> {
  return sql<KeptTrial[]>`
    select trial_id as "trialId", name, days, deciding, control, harm_orders as "harmOrders", harm_rank as "harmRank", decided
    from trial where account_id = ${accountId} and removed_at is null order by trial_id desc`;
}

export interface TrialLine {
  trialId: number;
  lineId: number;
  sheetId: number;
  state: string;
  sentOn: Day | null;
  action: string;
  entity: string;
  campaignId: string;
  campaign: string;
  adGroupId: string | null;
  objectId: string | null;
  field: string;
  oldValue: string | null;
  newValue: string | null;
}

/** Lines of trials that are not taken away. */
export async function trialLines(sql: Database | Transaction, accountId: number): Promise<TrialLine[]> {
  return sql<TrialLine[]>`
    select l.trial_id as "trialId", l.line_id as "lineId", l.sheet_id as "sheetId", l.state, s.sent_on::text as "sentOn",
      l.action, l.entity, l.campaign_id::text as "campaignId", coalesce(c.name, p.name, '') as campaign,
      l.ad_group_id::text as "adGroupId", l.object_id::text as "objectId", l.field, l.old_value as "oldValue",
      l.new_value as "newValue"
    from line l join sheet s using (account_id, sheet_id) join trial t using (account_id, trial_id)
    left join campaign c on c.account_id = l.account_id and c.campaign_id = l.campaign_id::bigint
    left join planned p on p.account_id = l.account_id and p.entity = 'campaign' and p.object_id = l.campaign_id::bigint
    where l.account_id = ${accountId} and t.removed_at is null and l.state in ('open', 'sending', 'applied')
    order by l.line_id`;
}

export interface OpenTrialLine {
  lineId: number;
  trialId: number | null;
  action: string;
  entity: string;
  campaignId: string;
  campaign: string;
  adGroupId: string | null;
  objectId: string | null;
  field: string;
  oldValue: string | null;
  newValue: string | null;
}

/** Lines of the open sheet that are meant, with all that belongs to them; all where none is named. */
export async function linesToTry(
  tx: Transaction,
  accountId: number,
  sheetId: number,
  lineIds: readonly number[] | null,
): Promise<OpenTrialLine[]> {
  const named = lineIds === null ? tx`true` : tx`line_id = any(${[...lineIds]}::bigint[])`;
  return tx<OpenTrialLine[]>`
    with meant as (
      select line_id, harvest from line
      where account_id = ${accountId} and sheet_id = ${sheetId} and state = 'open' and ${named})
    select line_id as "lineId", trial_id as "trialId", action, entity, campaign_id::text as "campaignId", coalesce((
        select c.name from campaign c where c.account_id = line.account_id and c.campaign_id = line.campaign_id::bigint), '') as campaign,
      ad_group_id::text as "adGroupId", object_id::text as "objectId", field, old_value as "oldValue", new_value as "newValue"
    from line where account_id = ${accountId} and sheet_id = ${sheetId} and state = 'open'
      and (line_id in (select line_id from meant) or harvest in (select harvest from meant where harvest is not null))
    order by line_id`;
}

export async function insertTrial(
  tx: Transaction,
  accountId: number,
  { name, days, deciding, control, harmOrders, harmRank }: TrialPlan,
  lineIds: readonly number[],
): Promise<number> {
  const [row] = await tx<[{ trial_id: number }]>`
    insert into trial (account_id, name, days, deciding, control, harm_orders, harm_rank)
    values (${accountId}, ${name.trim()}, ${days}, ${deciding}, ${control}, ${harmOrders}, ${harmRank}) returning trial_id`;
  await tx`
    update line set trial_id = ${row.trial_id}
    where account_id = ${accountId} and line_id = any(${[...lineIds]}::bigint[])`;
  return row.trial_id;
}

/** Takes away a trial whose lines were not sent: they stay on the sheet as they are. */
export async function removeTrial(tx: Transaction, accountId: number, trialId: number): Promise<number> {
  const { count } = await tx`
    update trial t set removed_at = now()
    where account_id = ${accountId} and trial_id = ${trialId} and removed_at is null and not exists (
      select 1 from line l where l.account_id = t.account_id and l.trial_id = t.trial_id and l.state in ('sending', 'applied'))`;
  if (count > 0)
    await tx`update line set trial_id = null where account_id = ${accountId} and trial_id = ${trialId}`;
  return count;
}

/** Brings a decision or a longer time into a trial that nobody has decided meanwhile; how many there are of it. */
export async function decideTrial(
  tx: Database | Transaction,
  accountId: number,
  trialId: number,
  { decided, days, today }: { decided: 'kept' | 'taken_back' | null; days: number; today: Day },
): Promise<number> {
  const { count } = await tx`
    update trial set decided = ${decided}, decided_on = ${decided === null ? null : today}, days = ${days}
    where account_id = ${accountId} and trial_id = ${trialId} and removed_at is null and (decided is null or ${decided === null})`;
  return count;
}

/** What some campaigns, and some targets beside them, had day by day. */
export async function touchedDays(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  campaignIds: readonly string[],
  targetIds: readonly string[],
  adGroupIds: readonly string[],
): Promise<DayFigures[]> {
  return sql<DayFigures[]>`
    with touched as (
      select t.target_id from target t join ad_group g using (account_id, ad_group_id)
      where t.account_id = ${accountId} and (g.campaign_id = any(${[...campaignIds]}::bigint[])
        or t.target_id = any(${[...targetIds]}::bigint[]) or t.ad_group_id = any(${[...adGroupIds]}::bigint[])))
    select d.day::text, sum(d.clicks)::float8 as clicks, sum(d.spend)::float8 as spend, sum(d.orders)::float8 as orders,
      sum(d.sales)::float8 as sales
    from target_day d join touched using (target_id)
    where d.account_id = ${accountId} and d.day between ${from} and ${to} group by d.day order by d.day`;
}

/** Running campaigns of which nothing was changed over a span, by sheets or elsewhere. */
export async function untouchedCampaigns(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  but: readonly string[],
): Promise<string[]> {
  const rows = await sql<{ id: string }[]>`
    select c.campaign_id::text as id from campaign c
    where c.account_id = ${accountId} and c.status = 'enabled' and c.campaign_id <> all(${[...but]}::bigint[])
      and not exists (
        select 1 from line l join sheet s using (account_id, sheet_id)
        where l.account_id = c.account_id and l.campaign_id::bigint = c.campaign_id and l.state = 'applied'
          and s.sent_on between ${from} and ${to})
      and not exists (
        select 1 from outside_change o
        where o.account_id = c.account_id and o.campaign_id = c.campaign_id and o.day between ${from} and ${to})`;
  return rows.map(({ id }) => id);
}

/** What campaigns had day by day; of all but some. */
export async function campaignDaysOf(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  campaignIds: readonly string[],
): Promise<DayFigures[]> {
  return sql<DayFigures[]>`
    select day::text, sum(clicks)::float8 as clicks, sum(spend)::float8 as spend, sum(orders)::float8 as orders,
      sum(sales)::float8 as sales
    from placement_day where account_id = ${accountId} and day between ${from} and ${to}
      and campaign_id = any(${[...campaignIds]}::bigint[])
    group by day order by day`;
}

/** What campaigns had day by day in hours of the week that are theirs to tell of: those that were moved, and those beside them. */
export async function timesBetween(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  times: readonly { campaignId: string; at: number; isTouched: boolean }[],
): Promise<(DayFigures & { isTouched: boolean })[]> {
  return sql<(DayFigures & { isTouched: boolean })[]>`
    with time as (
      select * from unnest(${times.map(({ campaignId }) => campaignId)}::bigint[], ${times.map(({ at }) => at)}::int[],
        ${times.map(({ isTouched }) => (isTouched ? 1 : 0))}::int[]) as t (campaign_id, place, touched))
    select h.day::text, t.touched = 1 as "isTouched", sum(h.clicks)::float8 as clicks, sum(h.spend)::float8 as spend,
      sum(h.orders)::float8 as orders, sum(h.sales)::float8 as sales
    from campaign_hour h join time t on t.campaign_id = h.campaign_id
      and t.place = (extract(isodow from h.day)::int - 1) * 24 + h.hour
    where h.account_id = ${accountId} and h.day between ${from} and ${to} group by 1, 2 order by 1`;
}

/** Those of some campaigns whose hours nothing is told of. */
export async function untoldHours(
  sql: Database | Transaction,
  accountId: number,
  campaignIds: readonly string[],
): Promise<string[]> {
  const rows = await sql<{ id: string }[]>`
    select c.id::text as id from unnest(${[...campaignIds]}::bigint[]) as c (id)
    where not exists (select 1 from campaign_hour h where h.account_id = ${accountId} and h.campaign_id = c.id)`;
  return rows.map(({ id }) => id);
}

/** Organic positions of the products that campaigns advertise, day by day. */
export async function rankDays(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  campaignIds: readonly string[],
): Promise<{ keyword: string; day: Day; position: number | null; searches: number }[]> {
  return sql`
    select r.sku || ' ' || lower(r.keyword) as keyword, r.day::text, min(r.organic_rank)::float8 as position,
      coalesce(max(r.search_volume), 0)::float8 as searches
    from rank_day r
    where r.account_id = ${accountId} and r.day between ${from} and ${to} and r.sku in (
      select p.sku from product_ad p join ad_group g using (account_id, ad_group_id)
      where p.account_id = ${accountId} and g.campaign_id = any(${[...campaignIds]}::bigint[]))
    group by 1, 2`;
}

/** The days that count of each trial that was sent. */
export async function trialSpans(
  sql: Database,
  accountId: number,
): Promise<{ name: string; from: Day; to: Day }[]> {
  return sql`
    select t.name, (min(s.sent_on) + 1)::text as from, (min(s.sent_on) + t.days)::text as to
    from trial t join line l using (account_id, trial_id) join sheet s using (account_id, sheet_id)
    where t.account_id = ${accountId} and t.removed_at is null and l.state = 'applied' and s.sent_on is not null
    group by t.trial_id, t.name, t.days order by 2`;
}
