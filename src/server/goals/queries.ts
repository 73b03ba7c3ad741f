import type { Database, Transaction } from '../db/connection.ts';
import type { GoalCall } from './index.ts';

export async function campaignsOf(
  sql: Database | Transaction,
  accountId: number,
): Promise<{ campaignId: string; extId: string | null; name: string; status: string }[]> {
  return sql`
    select campaign_id::text as "campaignId", ext_id as "extId", name, status from campaign
    where account_id = ${accountId} and status <> 'archived' order by name`;
}

export async function upsertGoal(tx: Transaction, accountId: number, goal: GoalCall): Promise<void> {
  await tx`
    insert into goal (account_id, scope, key, target_acos, bid_floor, bid_ceiling, stance, above_one)
    values (${accountId}, ${goal.scope}, ${goal.key}, ${goal.targetAcos}, ${goal.bidFloor}, ${goal.bidCeiling},
      coalesce(${goal.stance ?? null}, 'even'), coalesce(${goal.aboveOne ?? null}::boolean, false))
    on conflict (account_id, scope, key) do update set target_acos = excluded.target_acos,
      bid_floor = excluded.bid_floor, bid_ceiling = excluded.bid_ceiling, 
      stance = coalesce(${goal.stance ?? null}, goal.stance),
      above_one = coalesce(${goal.aboveOne ?? null}::boolean, goal.above_one)`;
}

export async function deleteGoal(
  sql: Database,
  accountId: number,
  scope: string,
  key: string,
): Promise<boolean> {
  const rows = await sql`
    delete from goal where account_id = ${accountId} and scope = ${scope} and key = ${key} returning 1`;
  return rows.length > 0;
}
