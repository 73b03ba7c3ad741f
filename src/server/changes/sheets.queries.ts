import type { Database, Transaction } from '../db/connection.ts';

/** Sheets: the open one, and those that have left. */

export async function openSheetId(sql: Database | Transaction, accountId: number): Promise<number> {
  const [known] = await sql<{ sheet_id: number }[]>`
    select sheet_id from sheet where account_id = ${accountId} and state = 'open'`;
  if (known) return known.sheet_id;
  const [made] = await sql<{ sheet_id: number }[]>`
    insert into sheet (account_id, state, created_at) values (${accountId}, 'open', now())
    on conflict do nothing returning sheet_id`;
  return made ? made.sheet_id : openSheetId(sql, accountId);
}

/**
 * The open sheet, locked until the transaction ends: whoever changes its lines and whoever sends it take turns, so
 * that no line is added to a sheet that has left, and none leaves that was taken off.
 */
export async function lockOpenSheet(tx: Transaction, accountId: number): Promise<number> {
  for (;;) {
    const [known] = await tx<{ sheet_id: number }[]>`
      update sheet set version = version + 1 where account_id = ${accountId} and state = 'open' returning sheet_id`;
    if (known) return known.sheet_id;
    await tx`
      insert into sheet (account_id, state, created_at) values (${accountId}, 'open', now()) on conflict do nothing`;
  }
}

/** A sheet that was sent elsewhere or before, to hold its lines; the same one again when it is known already. */
export async function insertSentSheet(
  tx: Transaction,
  accountId: number,
  sentOn: string | null,
  name: string,
): Promise<number> {
  const [known] = await tx<{ sheet_id: number }[]>`
    select sheet_id from sheet where account_id = ${accountId} and loaded_as = ${name} and state = 'sent'`;
  if (known) return known.sheet_id;
  const [made] = await tx<{ sheet_id: number }[]>`
    insert into sheet (account_id, state, created_at, sent_at, sent_on, loaded_as)
    values (${accountId}, 'sent', now(), ${sentOn}::date, ${sentOn}::date, ${name}) returning sheet_id`;
  return made!.sheet_id;
}

export interface SheetRow {
  sheet_id: number;
  state: 'open' | 'held' | 'stopped' | 'sending' | 'sent';
  created_at: Date;
  sent_at: Date | null;
  sent_on: string | null;
  reverts: number | null;
  /** Of a routine's run; null: a person's. */
  run_id: number | null;
  /** Counts the changes of the sheet and its lines. */
  version: number;
}

export async function sheetById(
  sql: Database | Transaction,
  accountId: number,
  sheetId: number,
): Promise<SheetRow | undefined> {
  const [row] = await sql<SheetRow[]>`
    select * from sheet where account_id = ${accountId} and sheet_id = ${sheetId}`;
  return row;
}

export async function sheetsOf(
  sql: Database,
  accountId: number,
): Promise<(SheetRow & { lines: number; applied: number; refused: number })[]> {
  return sql`
    select s.*, count(l.line_id) filter (where l.state <> 'removed')::int as lines,
      count(*) filter (where l.state = 'applied')::int as applied,
      count(*) filter (where l.state = 'refused')::int as refused
    from sheet s left join line l on l.account_id = s.account_id and l.sheet_id = s.sheet_id
    where s.account_id = ${accountId} group by s.account_id, s.sheet_id order by s.sheet_id desc`;
}

/** Whether the switch over all routines is thrown. */
export async function routinesStopped(sql: Database | Transaction, accountId: number): Promise<boolean> {
  const [row] = await sql<{ routines_stopped: boolean }[]>`
    select routines_stopped from account where account_id = ${accountId}`;
  return row?.routines_stopped ?? true;
}

export async function setSheetState(
  tx: Transaction | Database,
  accountId: number,
  sheetId: number,
  state: SheetRow['state'],
  sentOn: string | null = null,
): Promise<void> {
  await tx`
    update sheet set state = ${state}, version = version + 1, sent_on = coalesce(${sentOn}::date, sent_on),
      sent_at = case when ${state} = 'sent' then now() else sent_at end
    where account_id = ${accountId} and sheet_id = ${sheetId}`;
}

export async function sentDays(
  sql: Database,
  accountId: number,
): Promise<{ day: string; sheets: number; lines: number }[]> {
  return sql`
    select s.sent_on as day, count(distinct s.sheet_id)::int as sheets, count(l.line_id)::int as lines
    from sheet s join line l on l.account_id = s.account_id and l.sheet_id = s.sheet_id and l.state = 'applied'
    where s.account_id = ${accountId} and s.state = 'sent' group by s.sent_on order by s.sent_on`;
}
