import type { Sums } from '../../core/metrics/figures.ts';
import type { Window } from '../../core/metrics/days.ts';
import type { Condition } from '../../core/placements/conditions.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** Conditions in the order in which they are asked. */
export async function conditionRows(sql: Database | Transaction, accountId: number): Promise<Condition[]> {
  const rows = await sql<{ body: Condition }[]>`
    select body from placement_condition where account_id = ${accountId} order by rank`;
  return rows.map(({ body }) => body);
}

export async function putConditions(
  tx: Transaction,
  accountId: number,
  conditions: readonly Condition[],
): Promise<void> {
  await tx`delete from placement_condition where account_id = ${accountId}`;
  for (const [rank, body] of conditions.entries())
    await tx`insert into placement_condition values (${accountId}, ${rank}, ${tx.json(body as never)})`;
}

/** Sums of each placement of each campaign over days. */
export async function placementSumsOver(
  sql: Database,
  accountId: number,
  { from, to }: Window,
): Promise<Map<string, Map<string, Sums>>> {
  const rows = await sql<(Sums & { campaign: string; placement: string })[]>`
    select campaign_id::text as campaign, placement, sum(impressions)::float8 as impressions,
      sum(clicks)::float8 as clicks, sum(spend)::float8 as spend, sum(orders)::float8 as orders,
      sum(units)::float8 as units, sum(sales)::float8 as sales
    from placement_day where account_id = ${accountId} and day between ${from} and ${to} group by 1, 2`;
  const found = new Map<string, Map<string, Sums>>();
  for (const { campaign, placement, ...sums } of rows) {
    const own = found.get(campaign) ?? new Map<string, Sums>();
    found.set(campaign, own.set(placement, sums));
  }
  return found;
}

/** The last day of which placements are told. */
export async function lastPlacementDay(sql: Database, accountId: number): Promise<string | null> {
  const [row] = await sql<{ day: string | null }[]>`
    select max(day)::text as day from placement_day where account_id = ${accountId}`;
  return row?.day ?? null;
}
