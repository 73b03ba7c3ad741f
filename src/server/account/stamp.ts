import { versionsOf } from './queries.ts';
import { db } from '../db/connection.ts';

/**
 * What every answer about an account depends on, as one text: while it stays, so do they. Versions in the database tell
 * of figures, goals, lanes and sheets, whoever changed them; a count in this process tells of every call that writes.
 */

const writes = new Map<number, number>();

/** Says that a call or a job may have changed something of an account. */
export const noteWrite = (accountId: number): void => {
  writes.set(accountId, (writes.get(accountId) ?? 0) + 1);
};

export const stampOf = async (accountId: number): Promise<string> =>
  `${writes.get(accountId) ?? 0}|${await versionsOf(db(), accountId)}`;
