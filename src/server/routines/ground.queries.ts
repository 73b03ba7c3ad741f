import type { PastChange } from '../../core/account/as-of.ts';
import type { Day } from '../../core/metrics/days.ts';
import type { Standing } from '../../core/routines/stages.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** What routines know of the account before they act. */

/** A change, and whether a person's hand made it. */
export type HandChange = PastChange & { byHand: boolean };

const isByHand = (sql: Database) => sql`l.proposed_by <> 'Mowing' and l.proposed_by not like 'Routine %'`;

/** When objects were changed last, and when a person's hand set their bid: by campaign, or by target. */
export async function lastChanges(
  sql: Database,
  accountId: number,
  from: Day,
): Promise<
  { entity: string; objectId: string; campaignId: string; field: string; day: Day; byHand: boolean }[]
> {
  return sql`
    select l.entity, l.object_id as "objectId", l.campaign_id as "campaignId", l.field, max(s.sent_on)::text as day,
      ${isByHand(sql)} as "byHand"
    from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and l.state = 'applied' and l.object_id is not null and s.sent_on >= ${from}
    group by 1, 2, 3, 4, 6
    union all
    select entity, object_id::text, campaign_id::text, field, max(day)::text, true from outside_change
    where account_id = ${accountId} and day >= ${from} group by 1, 2, 3, 4`;
}

/** The first day on which each campaign was seen. */
export async function campaignsSince(sql: Database, accountId: number): Promise<Map<string, Day>> {
  const rows = await sql<{ id: string; day: Day }[]>`
    select campaign_id::text as id, min(day)::text as day from placement_day where account_id = ${accountId} group by 1`;
  return new Map(rows.map(({ id, day }) => [id, day]));
}

/** Campaigns of budget groups, with their names. */
export async function campaignNames(
  sql: Database,
  accountId: number,
): Promise<{ id: string; name: string; budgetGroup: string | null }[]> {
  return sql`
    select campaign_id::text as id, name, budget_group as "budgetGroup" from campaign
    where account_id = ${accountId} and status <> 'archived'`;
}

/** How things stand with the marketplace and the figures: what a routine must know before it acts. */
export async function sureness(
  sql: Database,
  accountId: number,
  today: Day,
): Promise<{
  newest: Day | null;
  loadedAt: Date | null;
  job: { state: string; message: string | null } | null;
  applied: number;
  refused: number;
}> {
  const [row] = await sql<
    {
      newest: Day | null;
      loadedAt: Date | null;
      state: string | null;
      message: string | null;
      applied: number;
      refused: number;
    }[]
  >`
    select
      (select max(day)::text from report_day where account_id = ${accountId} and kind = 'targets-daily') as newest,
      (select max(loaded_at) from report_day where account_id = ${accountId} and kind = 'targets-daily') as "loadedAt",
      j.state, j.message, coalesce(t.applied, 0)::int as applied, coalesce(t.refused, 0)::int as refused
    from (select 1) one
    left join lateral (
      select state, message from job where account_id = ${accountId} and kind in ('send', 'fetch', 'advance')
        and state in ('done', 'failed') order by created_at desc limit 1) j on true
    left join lateral (
      select count(*) filter (where l.state = 'applied') as applied, count(*) filter (where l.state = 'refused') as refused
      from line l join sheet s using (account_id, sheet_id)
      where l.account_id = ${accountId} and s.state = 'sent' and s.run_id is not null and s.sent_on > ${today}::date - 7) t on true`;
  const { newest, loadedAt, state, message, applied, refused } = row!;
  return { newest, loadedAt, job: state === null ? null : { state, message }, applied, refused };
}

/** Orders of the last settled days: as first told once they counted as settled, and as told last. */
export async function settledOrders(
  sql: Database,
  accountId: number,
  age: number,
  from: Day,
): Promise<{ then: number; now: number }> {
  const [row] = await sql<{ then: number; now: number }[]>`
    with seen as (
      select day, (array_agg(orders order by age))[1] as first, (array_agg(orders order by age desc))[1] as last, count(*) as n
      from day_sight where account_id = ${accountId} and kind = 'targets-daily' and age >= ${age} and day >= ${from}
      group by day)
    select coalesce(sum(first), 0)::float8 as then, coalesce(sum(last), 0)::float8 as now from seen where n > 1`;
  return row!;
}

/** Scored forecasts of what routines changed: how many, and how many came within their interval. */
export async function routineForecasts(
  sql: Database,
  accountId: number,
  routine: string,
): Promise<{ scored: number; within: number }> {
  const [row] = await sql<{ scored: number; within: number }[]>`
    select count(*)::int as scored, count(*) filter (where f.inside)::int as within from (
      select f.inside from forecast f join line l using (account_id, line_id)
      where f.account_id = ${accountId} and l.proposed_by = ${routine} order by f.line_id desc limit 100) f`;
  return row!;
}

/** In which stages campaigns stand. */
export async function keptStages(sql: Database, accountId: number): Promise<Map<string, Standing>> {
  const rows = await sql<(Standing & { id: string })[]>`
    select campaign_id::text as id, stage, since, out_since as "outSince" from campaign_stage where account_id = ${accountId}`;
  return new Map(rows.map(({ id, ...stage }) => [id, stage]));
}

export async function keepStages(
  tx: Transaction,
  accountId: number,
  stages: ReadonlyMap<string, Standing>,
): Promise<void> {
  const rows = [...stages].map(([id, { stage, since, outSince }]) => ({ id, stage, since, outSince }));
  if (rows.length === 0) return;
  await tx`
    insert into campaign_stage (account_id, campaign_id, stage, since, out_since)
    select ${accountId}, x.id::bigint, x.stage, x.since, x."outSince"
    from jsonb_to_recordset(${tx.json(rows as never)}) as x (id text, stage text, since date, "outSince" date)
    on conflict (account_id, campaign_id) do update
      set stage = excluded.stage, since = excluded.since, out_since = excluded.out_since`;
}

/** What was changed or made at the marketplace, by sheets or elsewhere. */
export async function pastChanges(sql: Database, accountId: number): Promise<HandChange[]> {
  return sql<HandChange[]>`
    select s.sent_on::text as day, l.entity, l.object_id as "objectId", l.field, l.action = 'create' as "isMade",
      l.old_value as old, ${isByHand(sql)} as "byHand"
    from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and l.state = 'applied' and s.sent_on is not null and l.object_id is not null
    union all
    select day::text, entity, object_id::text, field, false, old_value, true from outside_change
    where account_id = ${accountId}`;
}

/** Ad groups with the names of their campaigns, by their id. */
export async function adGroupNames(
  sql: Database,
  accountId: number,
): Promise<Map<string, { name: string; campaign: string; campaignId: string }>> {
  const rows = await sql<{ id: string; name: string; campaign: string; campaignId: string }[]>`
    select g.ad_group_id::text as id, g.name, c.name as campaign, c.campaign_id::text as "campaignId"
    from ad_group g join campaign c using (account_id, campaign_id) where g.account_id = ${accountId}`;
  return new Map(rows.map(({ id, ...names }) => [id, names]));
}

export async function budgetGroupNames(
  sql: Database,
  accountId: number,
): Promise<{ key: string; name: string }[]> {
  return sql`
    select ext_id as key, name from budget_group where account_id = ${accountId} order by name`;
}
