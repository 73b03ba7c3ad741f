import { lockAccount } from '../db/locks.ts';
import { createReadStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import type { Database, Transaction } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { restoreState, stageState, stateWriter, strangeIds } from '../account/state.queries.ts';

/** Postgres's complaints about rows that fit no table: classes of data and of constraints. */
const isBadRow = (error: unknown): boolean => /^(22|23)/.test((error as { code?: string }).code ?? '');

const unfit = (fileName: string, reason: string) =>
  new ServiceError(
    422,
    'bad_package',
    `Its account.jsonl cannot be followed: ${reason}. Nothing of it was loaded.`,
    {
      file: fileName,
    },
  );

/** Brings rows of an exported account (JSON Lines) into another, in one transaction; nothing when one does not fit. */
export async function restoreFile(
  sql: Database,
  accountId: number,
  path: string,
  tables: readonly string[],
  fileName: string,
): Promise<void> {
  try {
    await sql.begin(async (begun) => {
      const tx = begun as Transaction;
      await lockAccount(tx, accountId);
      await stageState(tx);
      await pipeline(createReadStream(path), await stateWriter(tx));
      if (await strangeIds(tx)) throw unfit(fileName, 'it has a number that no object has');
      await restoreState(tx, accountId, tables);
    });
  } catch (error) {
    if (isBadRow(error)) throw unfit(fileName, (error as Error).message);
    throw error;
  }
}
