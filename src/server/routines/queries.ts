import type { Routine } from '../../core/routines/routine.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** Routines as they are kept. */

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
