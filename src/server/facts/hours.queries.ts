import type { Window } from '../../core/metrics/days.ts';
import type { Database } from '../db/connection.ts';

/** For which share of the time each campaign had budget left, by id; those of whom no hours are known are left out. */
export async function shownTime(
  sql: Database,
  accountId: number,
  { from, to }: Window,
): Promise<Map<string, number>> {
  const rows = await sql<{ campaign_id: string; shown: number }[]>`
    select campaign_id::text, avg(minutes_in_budget)::float8 / 60 as shown from campaign_hour
    where account_id = ${accountId} and day between ${from} and ${to} and minutes_in_budget is not null
    group by campaign_id`;
  return new Map(rows.map(({ campaign_id, shown }) => [campaign_id, shown]));
}
