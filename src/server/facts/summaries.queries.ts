import type { Day, Window } from '../../core/metrics/days.ts';
import type { Database } from '../db/connection.ts';
import { betweenValues, packedRows, type Fragment } from '../db/packed.ts';
import type { BlockFact } from './blocks.queries.ts';

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

/**
 * The rows that sums are made of, each with its day and the first day it speaks of: facts by day, and where there are
 * summaries these as well, under their middle day. Accounts without them read the plain table.
 */
export async function factRows(
  sql: Database,
  accountId: number,
  fact: BlockFact,
): Promise<{ rows: Fragment; within: (window: Window) => Fragment }> {
  const kind = fact === 'term_day' ? kindOf.pairs : kindOf.targets;
  const [some] = await sql`select 1 from summary where account_id = ${accountId} and kind = ${kind} limit 1`;
  if (!some) return { rows: sql`${sql(fact)}`, within: () => sql`true` };
  const columns = sql`target_id, ${fact === 'term_day' ? sql`term_id,` : sql``}
    impressions, clicks, spend, orders, units, sales`;
  return {
    rows: sql`(
      select account_id, day, day as first_day, day as last_day, ${columns} from ${sql(fact)}
      union all
      select account_id, day, first_day, last_day, ${columns} from counted_summary
      where account_id = ${accountId} and kind = ${kind})`,
    within: ({ from, to }) => sql`(d.first_day >= ${from} and d.last_day <= ${to})`,
  };
}
