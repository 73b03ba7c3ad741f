import type { Transaction } from './connection.ts';

/** SQL of the importer: from staged rows to objects and facts, inside the caller's transaction. */

export async function lockAccount(tx: Transaction, accountId: number): Promise<void> {
  await tx`select pg_advisory_xact_lock(1, ${accountId}::int)`;
}
