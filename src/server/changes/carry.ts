import { randomUUID } from 'node:crypto';
import type { Day } from '../../core/metrics/days.ts';
import { getAccount } from '../account/account.ts';
import { touchData } from '../account/queries.ts';
import type { Database, Transaction } from '../db/connection.ts';
import { insertBatch, keepAnswers, nameCreated } from './batches.queries.ts';
import { setSheetState } from './sheets.queries.ts';
import { moveLeftLines } from './carry.queries.ts';

/** What came of an open line that somebody carried over by hand. */
export interface CarriedLine {
  lineId: number;
  state: 'applied' | 'refused';
  message: string | null;
}

/** Today where the account's marketplace is; never before the last day that is known of it. */
export async function todayOf(tx: Transaction, accountId: number, now: Date): Promise<Day> {
  const account = await getAccount(tx as unknown as Database, accountId);
  const there = new Intl.DateTimeFormat('en-CA', { timeZone: account.time_zone }).format(now);
  return account.today !== null && account.today > there ? account.today : there;
}

/**
 * Closes the open sheet with what came of some of its lines, as if they had been sent: applied ones stand in the account
 * from `today` on. The others wait on a new open sheet. The caller holds the lock of the sheet.
 */
export async function settleByHand(
  tx: Transaction,
  accountId: number,
  sheetId: number,
  lines: readonly CarriedLine[],
  today: Day,
): Promise<void> {
  const lineIds = lines.map(({ lineId }) => lineId);
  const batchId = randomUUID();
  const answers = lines.map(({ lineId, state, message }) => ({
    line_id: String(lineId),
    state,
    ...(message === null ? {} : { message }),
  }));
  await setSheetState(tx, accountId, sheetId, 'sending');
  await moveLeftLines(tx, accountId, sheetId, lineIds);
  await insertBatch(tx, accountId, sheetId, batchId, 0, [], lineIds);
  await keepAnswers(tx, accountId, batchId, today, answers);
  await nameCreated(tx, accountId, batchId);
  await setSheetState(tx, accountId, sheetId, 'sent', today);
  await touchData(tx, accountId);
}
