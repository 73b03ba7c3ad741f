import type { TakenBack } from '../../answers/imports.ts';
import { scopeName } from '../../core/goals/goals.ts';
import { touchGoals } from '../account/queries.ts';
import { db, type Transaction } from '../db/connection.ts';
import { lockAccount } from '../db/locks.ts';
import { notFound, ServiceError } from '../errors.ts';
import { deleteGoals, goalRows, loadedGoals, noteTakenBack, upsertGoals, type GoalRow } from './queries.ts';

/** A goal that a file changed: as it stood, and as the file left it. */
export interface LoadedGoal {
  before: GoalRow | null;
  after: GoalRow;
}

const isSame = (a: GoalRow | undefined, b: GoalRow): boolean =>
  a !== undefined && (Object.keys(b) as (keyof GoalRow)[]).every((name) => same(a[name], b[name]));
/** Ladders and guards come back from JSON with their keys in another order. */
const same = (a: unknown, b: unknown): boolean => sorted(a) === sorted(b);
const sorted = (value: unknown): string =>
  JSON.stringify(value, (_, one: unknown) =>
    one !== null && typeof one === 'object' && !Array.isArray(one)
      ? Object.fromEntries(Object.entries(one).sort(([a], [b]) => (a < b ? -1 : 1)))
      : one,
  );

/** Brings goals back to what they were before a file was loaded; what was changed since stays, and is counted. */
export async function takeBackGoals(accountId: number, importId: number): Promise<TakenBack> {
  return db().begin(async (transaction) => {
    const tx = transaction as unknown as Transaction;
    await lockAccount(tx, accountId);
    const loaded = await loadedGoals(tx, accountId, importId);
    if (!loaded) throw notFound(`import ${importId}`);
    if (loaded.changed === null)
      throw new ServiceError(422, 'not_to_be_taken_back', 'Only files of goals can be taken back.', {});
    if (loaded.isTakenBack)
      throw new ServiceError(409, 'taken_back', 'This file was taken back already.', {});
    const now = new Map((await goalRows(tx, accountId)).map((row) => [scopeName(row), row]));
    const back = loaded.changed.filter(({ after }) => isSame(now.get(scopeName(after)), after));
    await upsertGoals(
      tx,
      accountId,
      back.flatMap(({ before }) => before ?? []),
    );
    await deleteGoals(
      tx,
      accountId,
      back.flatMap(({ before, after }) => (before ? [] : [after])),
    );
    await noteTakenBack(tx, accountId, importId);
    await touchGoals(tx, accountId);
    return { back: back.length, stays: loaded.changed.length - back.length };
  }) as Promise<TakenBack>;
}
