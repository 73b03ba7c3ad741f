import type { SteeringOutcome } from '../../core/goals/theta.ts';
import type { Stance } from '../../core/bids/guards.ts';
import type { Database, Transaction } from '../db/connection.ts';
import type { GoalCall } from './goals.ts';

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

export interface GoalRow {
  scope: 'account' | 'product' | 'campaign';
  key: string;
  target_acos: number;
  bid_floor: number | null;
  bid_ceiling: number | null;
  stance: Stance;
  above_one: boolean;
}

export async function goalRows(sql: Database, accountId: number): Promise<GoalRow[]> {
  return sql<GoalRow[]>`
    select scope, key, target_acos, bid_floor, bid_ceiling, stance, above_one from goal where account_id = ${accountId}
    order by scope, key`;
}

export interface ThetaRow {
  scope: string;
  key: string;
  day: string;
  theta: number;
  target_acos: number;
  reason: string;
  /** Expected ACOS and theta in force of the days since the round before; null where nothing was told. */
  expected_acos: number | null;
  in_force: number | null;
  outcome: SteeringOutcome | 'start';
}

/** The newest theta of every scope. */
export async function thetaRows(sql: Database, accountId: number): Promise<ThetaRow[]> {
  return sql<ThetaRow[]>`
    select distinct on (scope, key) scope, key, day, theta, target_acos, reason, expected_acos, in_force, outcome from theta
    where account_id = ${accountId} order by scope, key, day desc`;
}

export async function insertTheta(sql: Database, accountId: number, row: ThetaRow): Promise<void> {
  await sql`
    insert into theta (account_id, scope, key, day, theta, target_acos, reason, expected_acos, in_force, outcome)
    values (${accountId}, ${row.scope}, ${row.key}, ${row.day}, ${row.theta}, ${row.target_acos}, ${row.reason},
      ${row.expected_acos}, ${row.in_force}, ${row.outcome})
    on conflict (account_id, scope, key, day) do nothing`;
}
