import type { Database, Transaction } from '../../db/connection.ts';

/** What is noted of a load. */

/** Notes which report told each day, and how many orders were known at its age. */
export async function noteDays(
  tx: Transaction,
  accountId: number,
  kind: string,
  asOf: string,
  loadedAt: Date,
  days: { day: string; rows: number; orders: number }[],
): Promise<number> {
  if (days.length === 0) return 0;
  const list = tx.json(days as never);
  const known = await tx`
    select 1 from report_day where account_id = ${accountId} and kind = ${kind}
      and day = any(${days.map(({ day }) => day)}::date[])`;
  await tx`
    insert into report_day (account_id, kind, day, as_of, loaded_at, rows)
    select ${accountId}, ${kind}, d.day, ${asOf}, ${loadedAt}, d.rows
    from jsonb_to_recordset(${list}) as d (day date, rows int, orders int)
    on conflict (account_id, kind, day) do update
      set as_of = excluded.as_of, loaded_at = excluded.loaded_at, rows = excluded.rows`;
  await tx`
    insert into day_sight (account_id, kind, day, age, orders)
    select ${accountId}, ${kind}, d.day, ${asOf}::date - d.day, d.orders
    from jsonb_to_recordset(${list}) as d (day date, rows int, orders int)
    where ${asOf}::date >= d.day
    on conflict (account_id, kind, day, age) do update set orders = excluded.orders`;
  return known.length;
}

/** Says that the account's figures changed; today moves to the last day known, never back. */
export async function touchAccount(
  tx: Transaction,
  accountId: number,
  lastDay: string | null,
): Promise<void> {
  await tx`
    update account set data_version = data_version + 1, today = greatest(today, ${lastDay}::date)
    where account_id = ${accountId}`;
}

export async function insertImport(
  tx: Transaction,
  row: {
    account_id: number;
    job_id: string | null;
    source: string;
    kind: string;
    file_name: string;
    state: string;
    rows_read: number;
    rows_loaded: number;
    rows_rejected: number;
    rows_totals: number;
    first_day: string | null;
    last_day: string | null;
    days_replaced: number;
    message: string | null;
    rejected_file: string | null;
    changed: unknown;
    finished_at: Date;
  },
): Promise<number> {
  const [made] = await tx<
    { import_id: number }[]
  >`insert into import ${tx(row as never)} returning import_id`;
  return made!.import_id;
}

/**
 * Tells the planner what came: without it the first judging after a large load may take the wrong way. A sample a
 * fifth of the usual is plenty for numbers as even as these. Other accounts' days are not looked at.
 */
export async function analyse(sql: Database, tables: readonly string[]): Promise<void> {
  await sql.begin(async (tx) => {
    await tx`set local default_statistics_target = 20`;
    for (const table of tables) await tx`analyze ${tx(table)}`;
  });
}
