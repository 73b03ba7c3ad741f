import type { RoutineItem, RoutineRun, RunState } from '../../answers/routines.ts';
import type { PastChange } from '../../core/account/as-of.ts';
import type { Day } from '../../core/metrics/days.ts';
import type { Used } from '../../core/routines/choose.ts';
import type { Routine } from '../../core/routines/routine.ts';
import type { Standing as Stage } from '../../core/routines/stages.ts';
import type { Database, Transaction } from '../db/connection.ts';

export interface KeptRoutine {
  routineId: number;
  rank: number;
  settings: Routine;
  isOn: boolean;
  stoppedWhy: string | null;
  onSince: Date | null;
  version: number;
}

const routineColumns = (sql: Database | Transaction) => sql`
  routine_id as "routineId", rank, settings, is_on as "isOn", stopped_why as "stoppedWhy", on_since as "onSince", version`;

/** Routines by their rank. */
export async function keptRoutines(sql: Database | Transaction, accountId: number): Promise<KeptRoutine[]> {
  return sql<KeptRoutine[]>`
    select ${routineColumns(sql)} from routine where account_id = ${accountId} and removed_at is null
    order by rank, routine_id`;
}

/** Locks the routines of an account while their ranks are changed; whether there ever were any. */
export async function lockRoutines(tx: Transaction, accountId: number): Promise<boolean> {
  await tx`select 1 from account where account_id = ${accountId} for update`;
  const [row] = await tx<{ any: boolean }[]>`
    select exists (select 1 from routine where account_id = ${accountId}) as any`;
  return row!.any;
}

export async function insertRoutine(
  tx: Transaction,
  accountId: number,
  rank: number,
  settings: Routine,
): Promise<number> {
  const [row] = await tx<{ routine_id: number }[]>`
    insert into routine (account_id, rank, settings) values (${accountId}, ${rank}, ${tx.json(settings as never)})
    returning routine_id`;
  return row!.routine_id;
}

/** Changes a routine that is as its changer saw it, its clock counting from now; how many there are of it. */
export async function updateRoutine(
  tx: Transaction,
  accountId: number,
  routineId: number,
  version: number,
  settings: Routine,
): Promise<number> {
  const { count } = await tx`
    update routine set settings = ${tx.json(settings as never)}, version = version + 1,
      on_since = case when is_on then now() end
    where account_id = ${accountId} and routine_id = ${routineId} and version = ${version} and removed_at is null`;
  return count;
}

export async function setRank(
  tx: Transaction,
  accountId: number,
  routineId: number,
  rank: number,
): Promise<void> {
  await tx`update routine set rank = ${rank} where account_id = ${accountId} and routine_id = ${routineId}`;
}

/** Turns a routine on, its clock counting from now, or off. */
export async function setOn(
  sql: Database | Transaction,
  accountId: number,
  routineId: number,
  isOn: boolean,
): Promise<number> {
  const { count } = await sql`
    update routine set is_on = ${isOn}, stopped_why = null,
      on_since = case when ${isOn} then now() else null end
    where account_id = ${accountId} and routine_id = ${routineId} and removed_at is null`;
  return count;
}

/** A routine that stopped itself. */
export async function stopItself(
  sql: Database | Transaction,
  accountId: number,
  routineId: number,
  why: string,
): Promise<void> {
  await sql`
    update routine set is_on = false, on_since = null, stopped_why = ${why}
    where account_id = ${accountId} and routine_id = ${routineId}`;
}

/** Takes a routine away, or brings it back. */
export async function setRemoved(
  sql: Database | Transaction,
  accountId: number,
  routineId: number,
  isRemoved: boolean,
): Promise<number> {
  const { count } = await sql`
    update routine set removed_at = case when ${isRemoved} then now() else null end, is_on = false, on_since = null
    where account_id = ${accountId} and routine_id = ${routineId} and (removed_at is null) = ${isRemoved}`;
  return count;
}

/** The switch over all of them. */
export async function setAllStopped(
  sql: Database | Transaction,
  accountId: number,
  isStopped: boolean,
): Promise<void> {
  await sql`update account set routines_stopped = ${isStopped} where account_id = ${accountId}`;
}

/** Accounts in which something is on and nothing is stopped, with their time zones. */
export async function accountsAtWork(sql: Database): Promise<
  {
    accountId: number;
    zone: string;
    routineId: number;
    settings: Routine;
    onSince: Date;
    lastDue: string | null;
  }[]
> {
  return sql`
    select r.account_id as "accountId", a.time_zone as zone, r.routine_id as "routineId", r.settings,
      r.on_since as "onSince",
      (select max(due) from routine_run n where n.account_id = r.account_id and n.routine_id = r.routine_id
        and n.due like 'at %') as "lastDue"
    from routine r join account a using (account_id)
    where r.is_on and r.removed_at is null and not a.routines_stopped and a.removed_at is null
      and r.settings #>> '{time,on}' = 'time'
    order by r.account_id, r.rank, r.routine_id`;
}

/** What a run looked at and did, in numbers; and the settings that it ran with. */
export type RunSummary = RoutineRun['summary'] & { settings?: Routine };

export interface RunRow {
  runId: number;
  routineId: number;
  due: string;
  day: Day;
  state: RunState;
  summary: RunSummary;
  why: string | null;
  sheetId: number | null;
  beganAt: Date;
  endedAt: Date | null;
  sendAfter: Date | null;
}

const runColumns = (sql: Database | Transaction) => sql`
  n.run_id as "runId", n.routine_id as "routineId", n.due, n.day, case
    when n.state in ('held', 'sending') and s.state = 'sent' then 'sent'
    when n.state = 'held' and s.state in ('sending', 'stopped') then s.state
    else n.state end as state,
  n.summary, n.why, n.sheet_id as "sheetId", n.began_at as "beganAt", n.ended_at as "endedAt", s.send_after as "sendAfter"`;

/** The newest runs. */
export async function latestRuns(sql: Database, accountId: number, limit: number): Promise<RunRow[]> {
  return sql<RunRow[]>`
    select ${runColumns(sql)} from routine_run n left join sheet s using (account_id, sheet_id)
    where n.account_id = ${accountId} order by n.run_id desc limit ${limit}`;
}

export async function runById(
  sql: Database | Transaction,
  accountId: number,
  runId: number,
): Promise<RunRow | undefined> {
  const [row] = await sql<RunRow[]>`
    select ${runColumns(sql)} from routine_run n left join sheet s using (account_id, sheet_id)
    where n.account_id = ${accountId} and n.run_id = ${runId}`;
  return row;
}

/** Writes down what is due; false when it was before. */
export async function planRun(
  tx: Transaction,
  accountId: number,
  routineId: number,
  due: string,
): Promise<boolean> {
  const { count } = await tx`
    insert into routine_run (account_id, routine_id, due, day, state, began_at)
    select ${accountId}, ${routineId}, ${due}, coalesce(today, current_date), 'running', now() from account
    where account_id = ${accountId} on conflict do nothing`;
  return count > 0;
}

/** The number of what was written down and came to no end; null where it did, or nobody wrote it down. */
export async function begunRun(
  sql: Database,
  accountId: number,
  routineId: number,
  due: string,
): Promise<number | null> {
  const [row] = await sql<{ run_id: number }[]>`
    select run_id from routine_run
    where account_id = ${accountId} and routine_id = ${routineId} and due = ${due} and state = 'running'`;
  return row?.run_id ?? null;
}

export async function endRun(
  sql: Database | Transaction,
  accountId: number,
  runId: number,
  {
    state,
    summary,
    why = null,
    sheetId = null,
  }: { state: RunState; summary: RunSummary; why?: string | null; sheetId?: number | null },
): Promise<void> {
  await sql`
    update routine_run set state = ${state}, summary = ${sql.json(summary as never)}, why = ${why},
      sheet_id = ${sheetId}, ended_at = now()
    where account_id = ${accountId} and run_id = ${runId}`;
}

/** An item of a run, without what it shares with the others of it. */
export type ItemRow = Omit<RoutineItem, 'runId' | 'day' | 'routine'>;

export async function insertItems(
  tx: Transaction,
  accountId: number,
  runId: number,
  items: readonly Omit<ItemRow, 'position'>[],
): Promise<void> {
  if (items.length === 0) return;
  await tx`
    insert into routine_item (account_id, run_id, position, finding_key, kind, subject, campaign_id, campaign, did, held_by,
      why, sentence, lines, worth, spend, effect)
    select ${accountId}, ${runId}, x.position, x."findingKey", x.kind, x.subject, x."campaignId", x.campaign, x.did, x."heldBy",
      x.why, x.sentence, x.lines, round(x.worth)::bigint, round(x.spend)::bigint, x.effect
    from jsonb_to_recordset(${tx.json(items.map((item, position) => ({ ...item, position })) as never)}) as x (
      position int, "findingKey" text, kind text, subject text, "campaignId" text, campaign text, did text, "heldBy" text,
      why text, sentence text, lines int, worth float8, spend float8, effect jsonb)`;
}

export interface ItemsWanted {
  text: string;
  did: ItemRow['did'] | null;
  runId: number | null;
  offset: number;
  limit: number;
}

/** Items of a run, or of all of them, that hold a text; the newest run first. */
export async function findItems(
  sql: Database,
  accountId: number,
  { text, did, runId, offset, limit }: ItemsWanted,
): Promise<{ count: number; items: RoutineItem[] }> {
  const like = `%${text.replaceAll(/[\\%_]/g, '\\$&')}%`;
  const where = sql`
    i.account_id = ${accountId} and (${runId}::bigint is null or i.run_id = ${runId})
      and (${did}::text is null or i.did = ${did})
      and (${text === ''} or i.subject ilike ${like} or i.campaign ilike ${like} or i.sentence ilike ${like} or i.why ilike ${like})`;
  const items = await sql<RoutineItem[]>`
    select i.run_id as "runId", n.day, coalesce(n.summary #>> '{settings,name}', r.settings ->> 'name', '') as routine, i.position,
      i.finding_key as "findingKey", i.kind, i.subject, i.campaign_id as "campaignId", i.campaign, i.did, i.held_by as "heldBy",
      i.why, i.sentence, i.lines, i.worth, i.spend, i.effect
    from routine_item i join routine_run n using (account_id, run_id) join routine r using (account_id, routine_id)
    where ${where} order by i.run_id desc, i.position limit ${limit} offset ${offset}`;
  const [all] = await sql<
    { count: number }[]
  >`select count(*)::int as count from routine_item i where ${where}`;
  return { count: all!.count, items };
}

/** What runs of a routine have used within the last seven days, this one left out. */
export async function usedInWeek(
  sql: Database,
  accountId: number,
  routineId: number,
  runId: number,
  from: Day,
): Promise<Used> {
  const [row] = await sql<Used[]>`
    select coalesce(sum((n.summary ->> 'lines')::int), 0)::int as lines,
      coalesce(sum((n.summary ->> 'spend')::float8), 0)::float8 as spend
    from routine_run n left join sheet s using (account_id, sheet_id)
    where n.account_id = ${accountId} and n.routine_id = ${routineId} and n.run_id <> ${runId} and n.day >= ${from}
      and n.state in ('held', 'sending', 'sent') and coalesce(s.state, '') <> 'stopped'`;
  return row!;
}

/** A sheet of a run, by itself. */
export async function insertRunSheet(
  tx: Transaction,
  accountId: number,
  runId: number,
  state: 'held' | 'sending',
  sendAfter: Date | null,
): Promise<number> {
  const [row] = await tx<{ sheet_id: number }[]>`
    insert into sheet (account_id, state, created_at, run_id, send_after)
    values (${accountId}, ${state}, now(), ${runId}, ${sendAfter}) returning sheet_id`;
  return row!.sheet_id;
}

/** Sheets whose time has come. */
export async function heldUntil(
  sql: Database,
  now: Date,
): Promise<{ accountId: number; sheetId: number; runId: number }[]> {
  return sql`
    select s.account_id as "accountId", s.sheet_id as "sheetId", s.run_id as "runId"
    from sheet s join account a using (account_id)
    where s.state = 'held' and s.send_after <= ${now} and not a.routines_stopped and a.removed_at is null
    order by s.send_after, s.sheet_id`;
}

/** Lets a held sheet leave, or stops it, or holds it again; false when it is not in that state any more. */
export async function moveHeld(
  tx: Transaction | Database,
  accountId: number,
  sheetId: number,
  from: 'held' | 'stopped',
  to: 'held' | 'stopped' | 'sending',
): Promise<boolean> {
  const { count } = await tx`
    update sheet set state = ${to}, version = version + 1
    where account_id = ${accountId} and sheet_id = ${sheetId} and state = ${from} and run_id is not null`;
  return count > 0;
}

/** Sheets of runs that are on their way without a job that carries them: a server fell in between, or the switch held them. */
export async function leftSheets(sql: Database): Promise<{ accountId: number; sheetId: number }[]> {
  return sql`
    select s.account_id as "accountId", s.sheet_id as "sheetId" from sheet s join account a using (account_id)
    where s.state = 'sending' and s.run_id is not null and not a.routines_stopped and a.removed_at is null and not exists (
      select 1 from job j where j.account_id = s.account_id and j.kind = 'send' and j.state in ('waiting', 'running', 'failed')
        and (j.payload ->> 'sheetId')::bigint = s.sheet_id)`;
}

/** What stands on sheets that have not left, by what it sets: whose it is. */
export interface Standing {
  conflictKey: string;
  lineId: number;
  sheetId: number;
  state: string;
  /** Rank of the routine whose it is; null: a person's. */
  rank: number | null;
  routine: string | null;
  runId: number | null;
  findingKey: string | null;
}

export async function standing(
  tx: Transaction | Database,
  accountId: number,
  keys: readonly string[],
): Promise<Standing[]> {
  return tx<Standing[]>`
    select l.conflict_key as "conflictKey", l.line_id as "lineId", s.sheet_id as "sheetId", s.state, r.rank,
      r.settings ->> 'name' as routine, s.run_id as "runId", l.finding_key as "findingKey"
    from line l join sheet s using (account_id, sheet_id)
    left join routine_run n on n.account_id = s.account_id and n.run_id = s.run_id
    left join routine r on r.account_id = n.account_id and r.routine_id = n.routine_id
    where l.account_id = ${accountId} and s.state in ('open', 'held', 'sending') and l.state in ('open', 'sending')
      and l.conflict_key = any(${[...keys]}::text[])`;
}

/** Takes findings off held sheets for a routine of a higher rank, and says so in the runs that lose them. */
export async function giveWay(
  tx: Transaction,
  accountId: number,
  lost: readonly Pick<Standing, 'sheetId' | 'runId' | 'findingKey'>[],
  to: string,
): Promise<void> {
  for (const { sheetId, runId, findingKey } of lost) {
    await tx`
      update line set state = 'removed'
      where account_id = ${accountId} and sheet_id = ${sheetId} and finding_key = ${findingKey} and state = 'open'`;
    await tx`
      update routine_item set did = 'lost', held_by = 'other_routine', why = ${`“${to}” has a higher rank and sets the same.`}
      where account_id = ${accountId} and run_id = ${runId} and finding_key = ${findingKey}`;
    await tx`
      update sheet set version = version + 1 where account_id = ${accountId} and sheet_id = ${sheetId}`;
  }
}

/** Takes lines off a held sheet, with all that belongs to their findings, and says why in its run. */
export async function dropFromHeld(
  tx: Transaction,
  accountId: number,
  sheetId: number,
  lineIds: readonly number[],
  why: string,
): Promise<void> {
  if (lineIds.length === 0) return;
  const rows = await tx<{ finding_key: string }[]>`
    update line set state = 'removed'
    where account_id = ${accountId} and sheet_id = ${sheetId} and state = 'open' and group_key in (
      select group_key from line where account_id = ${accountId} and line_id = any(${[...lineIds]}::bigint[]))
    returning finding_key`;
  await tx`
    update routine_item i set did = 'lost', held_by = 'gone', why = ${why}
    from sheet s where s.account_id = ${accountId} and s.sheet_id = ${sheetId} and i.account_id = s.account_id
      and i.run_id = s.run_id and i.finding_key = any(${rows.map(({ finding_key: key }) => key)}::text[])`;
}

export async function linesLeft(tx: Transaction, accountId: number, sheetId: number): Promise<number> {
  const [row] = await tx<{ count: number }[]>`
    select count(*)::int as count from line where account_id = ${accountId} and sheet_id = ${sheetId} and state = 'open'`;
  return row!.count;
}

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
      l.proposed_by <> 'Mowing' and l.proposed_by not like 'Routine %' as "byHand"
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
export async function keptStages(sql: Database, accountId: number): Promise<Map<string, Stage>> {
  const rows = await sql<(Stage & { id: string })[]>`
    select campaign_id::text as id, stage, since, out_since as "outSince" from campaign_stage where account_id = ${accountId}`;
  return new Map(rows.map(({ id, ...stage }) => [id, stage]));
}

export async function keepStages(
  tx: Transaction,
  accountId: number,
  stages: ReadonlyMap<string, Stage>,
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
export async function pastChanges(sql: Database, accountId: number): Promise<PastChange[]> {
  return sql<PastChange[]>`
    select s.sent_on::text as day, l.entity, l.object_id as "objectId", l.field, l.action = 'create' as "isMade", l.old_value as old
    from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and l.state = 'applied' and s.sent_on is not null and l.object_id is not null
    union all
    select day::text, entity, object_id::text, field, false, old_value from outside_change where account_id = ${accountId}`;
}

/** Ad groups with the names of their campaigns, by their id. */
export async function adGroupNames(
  sql: Database,
  accountId: number,
): Promise<Map<string, { name: string; campaign: string }>> {
  const rows = await sql<{ id: string; name: string; campaign: string }[]>`
    select g.ad_group_id::text as id, g.name, c.name as campaign
    from ad_group g join campaign c using (account_id, campaign_id) where g.account_id = ${accountId}`;
  return new Map(rows.map(({ id, ...names }) => [id, names]));
}

/** Stops what a routine holds. */
export async function stopHeldOf(
  sql: Database | Transaction,
  accountId: number,
  routineId: number,
): Promise<void> {
  await sql`
    update sheet s set state = 'stopped', version = s.version + 1 from routine_run n
    where s.account_id = ${accountId} and s.state = 'held' and n.account_id = s.account_id and n.run_id = s.run_id
      and n.routine_id = ${routineId}`;
}

export async function budgetGroupNames(
  sql: Database,
  accountId: number,
): Promise<{ key: string; name: string }[]> {
  return sql`
    select ext_id as key, name from budget_group where account_id = ${accountId} order by name`;
}
