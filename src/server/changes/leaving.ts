import type { UnusualClicks } from '../../answers/changes.ts';
import { counted, money } from '../../core/metrics/format.ts';
import { unusualClicks } from './unusual.queries.ts';
import { db, type Database, type Transaction } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { enqueue } from '../jobs/jobs.ts';
import { settleByHand, todayOf } from './carry.ts';
import { some, withOpenSheet } from './open.ts';
import { openLineIds, withPlaces } from './lines.queries.ts';
import { setSheetState, sheetById } from './sheets.queries.ts';
import { countOpen } from './sheet.queries.ts';

const unusualText = ([first, ...others]: readonly UnusualClicks[]): string =>
  `In ${counted(others.length + 1, 'campaign')} a click may cost over twice its bid: ${money(first!.after)} in “${first!.name}” for a bid of ${money(first!.bid)}. Nothing was sent; say that it is meant, or change it.`;

/** How the open sheet leaves: sent by a job, or carried over by hand. */

/** Throws what stands in the way of the open sheet's leaving as it stands; how many lines it has. */
async function readyToLeave(
  tx: Transaction,
  accountId: number,
  sheetId: number,
  seen: number | undefined,
): Promise<number> {
  const { lines, conflicts } = await countOpen(tx as unknown as Database, accountId, sheetId);
  if (lines === 0) throw new ServiceError(422, 'empty_sheet', 'The sheet is empty.');
  if (seen !== undefined && seen !== lines) {
    const message = `The sheet changed meanwhile: it holds ${lines} lines now, not ${seen}. Nothing was sent; look at it again.`;
    throw new ServiceError(409, 'sheet_changed', message);
  }
  if (conflicts > 0) {
    const message = `${conflicts} lines conflict with each other. Keep one of each before sending.`;
    throw new ServiceError(422, 'conflicts', message);
  }
  return lines;
}

/**
 * Sends the open sheet: checks it as it stands now, closes it to edits, and starts the job that carries it over.
 * `lines` is how many its sender saw; left out, all that there are. `isMeant`: what clicks may cost then is meant.
 */
export async function sendSheet(
  accountId: number,
  seen: number | undefined,
  isMeant: boolean,
): Promise<{ jobId: string; sheetId: number }> {
  const sheet = await withOpenSheet(accountId, async (tx, sheetId) => {
    await readyToLeave(tx, accountId, sheetId, seen);
    const unusual = isMeant ? [] : await unusualClicks(tx, accountId, sheetId);
    if (unusual.length > 0) throw new ServiceError(422, 'unusual_clicks', unusualText(unusual));
    await setSheetState(tx, accountId, sheetId, 'sending');
    return sheetId;
  });
  return { sheetId: sheet, jobId: await enqueue(accountId, 'send', { sheetId: sheet }) };
}

/**
 * Notes that lines of the open sheet were carried over by hand and applied: those named, or all. The others wait on the
 * next sheet. `seen`: see `sendSheet`.
 */
export async function carryOver(
  accountId: number,
  lineIds: number[] | null,
  seen: number | undefined,
): Promise<{ sheetId: number; lines: number; left: number }> {
  return withOpenSheet(accountId, async (tx, sheetId) => {
    const lines = await readyToLeave(tx, accountId, sheetId, seen);
    // What a line stands in was applied before it.
    const named = lineIds && (await withPlaces(tx, accountId, lineIds));
    const chosen = await openLineIds(tx, accountId, sheetId, named);
    some(named !== null && chosen.length < named.length ? 0 : chosen.length);
    const carried = chosen.map((lineId) => ({ lineId, state: 'applied' as const, message: null }));
    await settleByHand(tx, accountId, sheetId, carried, await todayOf(tx, accountId, new Date()));
    return { sheetId, lines: carried.length, left: lines - carried.length };
  });
}

/** Goes on with a sheet whose sending stopped on an error; batches that were answered stay as they are. */
export async function resumeSending(accountId: number, sheetId: number): Promise<{ jobId: string }> {
  const sheet = await sheetById(db(), accountId, sheetId);
  if (sheet?.state !== 'sending') throw new ServiceError(422, 'not_sending', 'This sheet is not on its way.');
  return { jobId: await enqueue(accountId, 'send', { sheetId }) };
}
