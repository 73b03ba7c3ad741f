import type { NewLine } from '../changes/lines.queries.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** Sheets that runs hold by themselves. */

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

/** A sheet of which nothing is left leaves no more. */
export async function stopEmpty(tx: Transaction, accountId: number, sheetId: number): Promise<void> {
  await tx`
    update sheet set state = 'stopped', version = version + 1 where account_id = ${accountId} and sheet_id = ${sheetId}`;
}

/** Forgets campaigns and ad groups that were planned for findings which are not acted on. */
export async function forgetPlanned(
  tx: Transaction,
  accountId: number,
  lines: readonly Pick<NewLine, 'action' | 'entity' | 'campaign_id' | 'ad_group_id'>[],
): Promise<void> {
  for (const { action, entity, campaign_id: campaignId, ad_group_id: adGroupId } of lines) {
    if (action !== 'create' || (entity !== 'campaign' && entity !== 'ad_group')) continue;
    const id = entity === 'campaign' ? campaignId : adGroupId;
    await tx`
      delete from planned where account_id = ${accountId} and entity = ${entity} and object_id = ${id}::bigint`;
  }
}
