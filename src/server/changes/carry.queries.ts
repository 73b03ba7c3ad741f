import type { Transaction } from '../db/connection.ts';

/** Moves the open lines of a sheet that are not among these onto a new open sheet, when there are any. */
export async function moveLeftLines(
  tx: Transaction,
  accountId: number,
  sheetId: number,
  lineIds: number[],
): Promise<void> {
  await tx`
    with rest as (
      select line_id from line
      where account_id = ${accountId} and sheet_id = ${sheetId} and state = 'open'
        and not line_id = any(${lineIds}::bigint[])),
    made as (
      insert into sheet (account_id, state, created_at)
      select ${accountId}, 'open', now() where exists (select 1 from rest) returning sheet_id)
    update line l set sheet_id = made.sheet_id from made, rest
    where l.account_id = ${accountId} and l.line_id = rest.line_id`;
}
