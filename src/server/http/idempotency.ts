import { createHash } from 'node:crypto';
import { db, together, type Database } from '../db/connection.ts';
import { storable } from '../db/storable.ts';
import { ServiceError } from '../errors.ts';

/** Calls that were answered are known by their keys for this many hours. */
const hoursKept = 48;

/**
 * Runs a call once per key; the same key again gives the kept answer. Change, key and answer are one transaction: after
 * a crash either all of them are there, or the call can be made again under its key.
 */
export const once = (
  accountId: number,
  key: string,
  call: string,
  body: string,
  run: () => Promise<unknown>,
): Promise<unknown> =>
  together(async () => {
    const sql = db();
    const [lock] = await sql<{ got: boolean }[]>`
      select pg_try_advisory_xact_lock(hashtextextended(${`${accountId}|${key}`}, 1)) as got`;
    if (!lock?.got) {
      throw new ServiceError(409, 'in_progress', 'The first call with this key is still at work.');
    }
    const digest = createHash('sha256').update(body).digest('hex');
    const [known] = await sql<{ call: string; digest: string; body: unknown }[]>`
      select call, digest, body from answered_call
      where account_id = ${accountId} and idempotency_key = ${key}`;
    if (known && (known.call !== call || known.digest !== digest)) {
      throw new ServiceError(422, 'key_reused', 'This Idempotency-Key was used for another call.');
    }
    if (known) return known.body;
    const result = storable(await run());
    await sql`
      insert into answered_call (account_id, idempotency_key, call, digest, status, body, made_at)
      values (${accountId}, ${key}, ${call}, ${digest}, 200, ${sql.json(result as never)}, now())`;
    return result;
  });

/**
 * What a call answered, by its key: for whoever made it and left before the answer came. Waits while it is at work; null
 * when no such call was ever done.
 */
export async function answerOf(accountId: number, key: string): Promise<unknown> {
  const sql = db();
  await sql`select pg_advisory_xact_lock(hashtextextended(${`${accountId}|${key}`}, 1))`;
  const [known] = await sql<{ body: unknown }[]>`
    select body from answered_call where account_id = ${accountId} and idempotency_key = ${key}`;
  return known?.body ?? null;
}

/** Forgets the answers that nobody will ask for again. */
export async function forgetAnswered(sql: Database): Promise<void> {
  await sql`delete from answered_call where made_at < now() - make_interval(hours => ${hoursKept})`;
}
