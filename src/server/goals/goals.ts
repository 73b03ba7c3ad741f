import type { GoalsAnswer, ThetaAnswer } from '../../answers/goals.ts';
import type { Stance } from '../../core/bids/guards.ts';
import { thetaAt } from '../../core/goals/theta.ts';
import { percent, significant } from '../../core/metrics/format.ts';
import { marginOf } from '../account/account.ts';
import { productsOf, touchGoals } from '../account/queries.ts';
import { db } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { enqueue } from '../jobs/jobs.ts';
import {
  campaignsOf,
  deleteGoal,
  upsertGoal,
  goalRows,
  thetaRows,
  type GoalRow,
  type ThetaRow,
} from './queries.ts';

export interface GoalCall {
  scope: 'account' | 'product' | 'campaign';
  key: string;
  targetAcos: number;
  bidFloor: number | null;
  bidCeiling: number | null;
  /** Left out, they stay as they are. */
  stance?: Stance;
  /** Theta may rise above 1. */
  aboveOne?: boolean;
}

/** Goals of the account, with each scope's theta, and the products and campaigns that may have one. */
export async function goalsOf(accountId: number): Promise<GoalsAnswer> {
  const sql = db();
  const thetas = await thetaRows(sql, accountId);
  const goals = await goalRows(sql, accountId);
  return {
    goals: goals.map((goal) => {
      const theta = thetas.find((row) => row.scope === goal.scope && row.key === goal.key);
      return {
        scope: goal.scope,
        key: goal.key,
        targetAcos: goal.target_acos,
        bidFloor: goal.bid_floor,
        bidCeiling: goal.bid_ceiling,
        stance: goal.stance,
        aboveOne: goal.above_one,
        theta: theta ? saidOf(theta, goal) : null,
      };
    }),
    products: (await productsOf(sql, accountId)).map((row) => ({
      sku: row.sku,
      title: row.title,
      price: row.price,
      stock: row.stock,
      margin: marginOf(row),
    })),
    campaigns: await campaignsOf(sql, accountId),
  };
}

/** Theta of a scope as it stands, and why. */
function saidOf(row: ThetaRow, { target_acos, above_one }: GoalRow): ThetaAnswer {
  const { theta, held } = thetaAt(row, target_acos, above_one);
  return {
    value: theta,
    day: row.day,
    reason: held
      ? `At ${percent(target_acos)} a bid would go above its own revenue per click: held at ${significant(theta)} until you confirm that.`
      : row.reason,
    outcome: held ? ('wants confirmation' as const) : row.outcome,
    expectedAcos: row.expected_acos,
    inForce: row.in_force,
  };
}

export async function setGoal(accountId: number, call: GoalCall): Promise<void> {
  const sql = db();
  if (call.bidFloor !== null && call.bidCeiling !== null && call.bidFloor > call.bidCeiling) {
    throw new ServiceError(422, 'floor_above_ceiling', 'The floor lies above the ceiling.', {
      field: 'bidFloor',
    });
  }
  if (call.scope === 'product' && !(await productsOf(sql, accountId)).some((row) => row.sku === call.key)) {
    throw notFound(`product ${call.key}`);
  }
  if (
    call.scope === 'campaign' &&
    !(await campaignsOf(sql, accountId)).some((row) => row.campaignId === call.key)
  ) {
    throw notFound(`campaign ${call.key}`);
  }
  await sql.begin(async (tx) => {
    await upsertGoal(tx as never, accountId, { ...call, key: call.scope === 'account' ? '' : call.key });
    await touchGoals(tx as never, accountId);
  });
  // A new scope has its own theta from now on, so that the next round can steer it.
  await enqueue(accountId, 'steer', {});
}

/** Removes an override; the wider goal rules again. */
export async function removeGoal(accountId: number, scope: string, key: string): Promise<void> {
  if (scope === 'account')
    throw new ServiceError(422, 'account_goal', 'The account needs a goal. Change it instead.');
  const gone = await deleteGoal(db(), accountId, scope, key);
  if (!gone) throw notFound(`goal of ${scope} ${key}`);
  await touchGoals(db(), accountId);
}
