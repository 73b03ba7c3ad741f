import type { Database, Transaction } from './connection.ts';

/**
 * A question that joins days by the hundred thousand with lists that came as JSON: hashed and in memory. Postgres takes
 * such lists for short ones and looks days up one by one, seconds instead of a tenth of one.
 */
export const setwise = <T>(sql: Database, ask: (tx: Transaction) => Promise<T>): Promise<T> =>
  sql.begin(async (begun) => {
    const tx = begun as Transaction;
    await tx`set local work_mem = '256MB'`;
    await tx`set local enable_nestloop = off`;
    // What is disabled counts as dear, and what is dear is compiled first: that took two seconds.
    await tx`set local jit = off`;
    return ask(tx);
  }) as Promise<T>;

/**
 * Statements that join rows with long lists which came as JSON, within a transaction that goes on: one look at each,
 * where Postgres, which takes such lists for short, would hold every row against all of the list.
 */
export async function byHashing(tx: Transaction, act: () => Promise<void>): Promise<void> {
  await tx`set local enable_nestloop = off`;
  await act();
  // When it throws, the transaction is over, and the setting with it.
  await tx`set local enable_nestloop = on`;
}
