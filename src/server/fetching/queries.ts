import type { Database } from '../db/connection.ts';

/**
 * First and last day that a report should be fetched for: days never told, and days told when they were younger
 * than `finalAge`. Null: everything is known.
 */
export async function daysToFetch(
  sql: Database,
  accountId: number,
  kind: string,
  firstDay: string,
  today: string,
  finalAge: number,
): Promise<{ from: string; to: string } | null> {
  const [row] = await sql<{ first: string | null; last: string | null }[]>`
    select min(d.day)::date as first, max(d.day)::date as last
    from generate_series(${firstDay}::date, ${today}::date, '1 day') as d (day)
    left join report_day r on r.account_id = ${accountId} and r.kind = ${kind} and r.day = d.day
    where r.day is null or (r.as_of < ${today}::date and r.as_of - r.day < ${finalAge})`;
  return row?.first && row.last ? { from: row.first, to: row.last } : null;
}

export async function setStructureVersion(sql: Database, accountId: number, version: number): Promise<void> {
  await sql`update account set structure_version = ${version} where account_id = ${accountId}`;
}
