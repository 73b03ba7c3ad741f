import type { Day, Window } from '../../core/metrics/days.ts';
import type { Database } from '../db/connection.ts';
import { betweenValues, packedRows, type Fragment } from '../db/packed.ts';

/** Sums that were told for a span of days, and how they count beside the days. */

export type SummaryOf = 'targets' | 'pairs' | 'placements';

const kindOf: Record<SummaryOf, string> = {
  targets: 'targets-daily',
  pairs: 'terms-daily',
  placements: 'placements-daily',
};

const keysOf = (sql: Database, of: SummaryOf): Fragment =>
  of === 'targets' ? sql`target_id` : of === 'pairs' ? sql`target_id, term_id` : sql`campaign_id, placement`;

/** One summary: its ids, the day in its middle, then impressions, clicks, spend, orders, units, sales. */
export type OnSummary = (ids: string[], day: Day, figures: number[]) => void;

/** The summaries that lie within a window and count. */
export async function summariesIn(
  sql: Database,
  accountId: number,
  of: SummaryOf,
  { from, to }: Window,
  onSummary: OnSummary,
): Promise<void> {
  const rows = sql`
    select concat_ws(${betweenValues}, ${keysOf(sql, of)}, day, impressions, clicks, spend, orders, units, sales) as row
    from counted_summary
    where account_id = ${accountId} and kind = ${kindOf[of]} and first_day >= ${from} and last_day <= ${to}`;
  const ids = of === 'targets' ? 1 : 2;
  await packedRows(sql, sql``, rows, (row) =>
    onSummary(row.slice(0, ids), row[ids]!, row.slice(ids + 1).map(Number)),
  );
}

/** Which spans were told as a whole and count. */
export async function summarySpans(
  sql: Database,
  accountId: number,
): Promise<{ kind: string; firstDay: Day; lastDay: Day }[]> {
  return sql`
    select distinct kind, first_day as "firstDay", last_day as "lastDay" from counted_summary
    where account_id = ${accountId} order by 2, 3, 1`;
}
