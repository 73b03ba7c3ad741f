import type { RoutineItem, RoutineRun, RunState } from '../../answers/routines.ts';
import type { Day } from '../../core/metrics/days.ts';
import type { Used } from '../../core/routines/choose.ts';
import type { Routine } from '../../core/routines/routine.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** Runs of routines, and what they found and did. */

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

/** Runs that hold a sheet, what leaves first before the others; then each routine's newest run, where it proposed. `since`: the first day of theirs. */
export async function waitingRuns(sql: Database, accountId: number, since: Day): Promise<RunRow[]> {
  return sql<RunRow[]>`
    select ${runColumns(sql)} from routine_run n left join sheet s using (account_id, sheet_id)
    where n.account_id = ${accountId} and ((n.state = 'held' and s.state = 'held') or (n.state = 'proposed' and n.day >= ${since}
      and not exists (select 1 from routine_run later where later.account_id = n.account_id
        and later.routine_id = n.routine_id and later.run_id > n.run_id)))
    order by n.state = 'proposed', s.send_after, n.run_id desc`;
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
