import type { Layout, LoadResult } from '../../answers/imports.ts';
import { lockAccount } from '../db/locks.ts';
import { filesOf } from '../account/files.ts';
import type { Database, Transaction } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { makeMonths } from '../facts/months.queries.ts';
import { isSummary } from './files/columns.ts';
import { fileKinds } from './kinds/index.ts';
import { analyse, insertImport, noteDays, touchAccount } from './staging/loads.queries.ts';
import type { Loader } from './staging/loader.ts';
import { readFile, type Choices, type Reading } from './files/read.ts';
import { RejectFile } from './files/rejects.ts';

/** One file to load: where it lies, how it is laid out, what its columns mean. */
export interface LoadOrder {
  accountId: number;
  jobId: string | null;
  /** 'file', or the name of the marketplace. */
  source: string;
  path: string;
  fileName: string;
  layout: Layout;
  choices: Choices;
  /** The account's day on which the report was made: its days' ages count from here. Null: from its last day. */
  asOf: string | null;
  /** A structure that is the whole account archives what it does not name. */
  whole: boolean;
}

export type Progress = (done: { bytes: number; step: string }) => Promise<void> | void;

/**
 * Loads one file in one transaction: read, staged, merged, days replaced. Cut anywhere, it leaves nothing behind;
 * done twice, it changes nothing.
 */
export async function loadFile(
  sql: Database,
  order: LoadOrder,
  now: Date,
  progress: Progress,
): Promise<LoadResult> {
  const rejects = new RejectFile(
    order.layout.headers,
    filesOf(order.accountId),
    order.jobId,
    order.choices.kind,
  );
  try {
    const loaded = (await sql.begin(async (tx) => {
      await lockAccount(tx, order.accountId);
      const { kind } = order.choices;
      const loader = await openLoader(sql, tx, order);
      const reading = await read(loader, order, rejects, progress);
      if (reading.rowsRead === 0) {
        throw new ServiceError(422, 'no_rows', 'The file has headers and no rows below them.', {
          file: order.fileName,
        });
      }
      const rowsLoaded = reading.rowsRead - reading.rowsRejected - reading.rowsTotals;
      if (rowsLoaded === 0) {
        const first = rejects.first[0];
        const message = first
          ? `No row could be loaded. Row ${first.row}${first.column ? `, column ${first.column}` : ''}: ${first.reason}`
          : 'The file has no rows but totals.';
        throw new ServiceError(422, 'nothing_loaded', message, { file: order.fileName });
      }
      await progress({ bytes: reading.bytes, step: 'merging' });
      const { days, firstDay, lastDay, changed } = await loader.finish();
      const asOf = order.asOf ?? lastDay ?? now.toISOString().slice(0, 10);
      const daysReplaced = await noteDays(tx, order.accountId, kind, asOf, now, days);
      if (!fileKinds[kind].leavesFigures) await touchAccount(tx, order.accountId, lastDay);
      const rejectedFile = await rejects.close();
      const result = {
        kind,
        fileName: order.fileName,
        rowsRead: reading.rowsRead,
        rowsLoaded,
        rowsRejected: reading.rowsRejected,
        rowsTotals: reading.rowsTotals,
        firstDay,
        lastDay,
        daysReplaced,
        rejectedFile,
        rejected: rejects.first,
      };
      const importId = await insertImport(tx, {
        account_id: order.accountId,
        job_id: order.jobId,
        source: order.source,
        kind,
        file_name: order.fileName,
        state: 'loaded',
        rows_read: result.rowsRead,
        rows_loaded: rowsLoaded,
        rows_rejected: result.rowsRejected,
        rows_totals: result.rowsTotals,
        first_day: result.firstDay,
        last_day: result.lastDay,
        days_replaced: result.daysReplaced,
        message: null,
        rejected_file: rejectedFile,
        changed: changed === undefined ? null : tx.json(changed as never),
        finished_at: now,
      });
      return { importId, ...result };
    })) as LoadResult;
    const own = (fact: string) => `${fact}_${order.accountId}`;
    await analyse(sql, fileKinds[order.choices.kind].analysed?.(own) ?? []);
    return loaded;
  } catch (error) {
    await rejects.drop();
    throw error;
  }
}

/** What takes the rows of this file. */
async function openLoader(
  sql: Database,
  tx: Transaction,
  { accountId, asOf, whole, choices }: LoadOrder,
): Promise<Loader> {
  const months = (fact: string, days: readonly string[]) => makeMonths(sql, accountId, fact, days);
  const { open, openSummary } = fileKinds[choices.kind];
  const opener = openSummary && isSummary(choices.mapping) ? openSummary : open;
  return opener({ tx, accountId, months, asOf, whole });
}

async function read(
  loader: Loader,
  order: LoadOrder,
  rejects: RejectFile,
  progress: Progress,
): Promise<Reading> {
  try {
    return await readFile(
      order.path,
      order.layout,
      order.choices,
      fileKinds[order.choices.kind].columns,
      loader,
      (values) => loader.add(values),
      (rejected) => rejects.add(rejected),
      (bytes) => progress({ bytes, step: 'reading' }),
    );
  } catch (error) {
    await loader.abandon?.();
    throw error;
  }
}
