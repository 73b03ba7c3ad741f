import type { Database } from '../db/connection.ts';

/**
 * Makes the partitions of an account's facts that days need, each by a statement that stands at once: made within a
 * long load, its lock would keep others waiting for as long as that takes. `sql` is no transaction of the load.
 */
export async function makeMonths(
  sql: Database,
  accountId: number,
  fact: string,
  days: readonly string[],
): Promise<void> {
  const months = [...new Set(days.map((day) => `${day.slice(0, 7)}-01`))];
  for (const month of months) await sql`select ensure_month(${fact}, ${accountId}, ${month}::date)`;
}
