import type { Mixes } from '../../core/account/mix.ts';
import type { AdGroupInfo, ProductInfo, TargetRow } from '../../core/account/rows.ts';
import { Goals, scopeName, type SetGoal } from '../../core/goals/goals.ts';
import { paidPerBid, thetaAt } from '../../core/goals/theta.ts';
import { percent, significant } from '../../core/metrics/format.ts';
import type { GoalRow, ThetaRow } from './queries.ts';

/** Goals as they are kept, with the theta that was steered for each scope. */

/** Theta of a scope, and the target it belongs to. */
interface Start {
  theta: number;
  target_acos: number;
}

/** `startOf`: theta of a scope for which none was ever steered. */
export function setGoalsOf(
  rows: readonly GoalRow[],
  thetas: readonly ThetaRow[],
  startOf: (row: GoalRow) => Start,
): SetGoal[] {
  const known = new Map(thetas.map((row) => [scopeName(row), row]));
  const goals = rows.map((row): SetGoal => {
    const goal = plainGoal(row);
    if (row.objective === null || row.objective === 'profit') return goal;
    const at = known.get(scopeName(goal)) ?? startOf(row);
    return row.objective === 'acos'
      ? { ...goal, theta: thetaAt(at, row.target_acos!, row.above_one).theta }
      : { ...goal, theta: at.theta, thetaTarget: at.target_acos };
  });
  return goals.sort((a) => (a.scope === 'account' ? -1 : 1));
}

/** A goal without a theta: whose it is, and what it says. */
export const plainGoal = (row: GoalRow): SetGoal => ({
  scope: row.scope,
  key: row.key,
  objective: row.objective,
  targetAcos: row.target_acos,
  targetMargin: row.target_margin,
  bidFloor: row.bid_floor,
  bidCeiling: row.bid_ceiling,
  stance: row.stance,
  method: row.method,
  ladder: row.ladder,
  guards: row.guards,
  aboveOne: row.above_one,
  theta: 0,
});

/** Targets by the scope whose target rules them, each with that target. */
export function ruledTargets(
  rows: readonly GoalRow[],
  adGroups: ReadonlyMap<string, AdGroupInfo>,
  products: ReadonlyMap<string, ProductInfo>,
  targets: readonly TargetRow[],
  mixes?: Mixes,
): Map<string, { row: TargetRow; targetAcos: number }[]> {
  const goals = new Goals(rows.map(plainGoal), undefined, (sku) => products.get(sku)?.margin ?? null, mixes);
  const found = new Map<string, { row: TargetRow; targetAcos: number }[]>();
  for (const row of targets) {
    const adGroup = adGroups.get(row.adGroupId);
    if (!adGroup) continue;
    const goal = goals.of(adGroup);
    const own = found.get(scopeName(goal));
    const one = { row, targetAcos: goal.targetAcos };
    if (own) own.push(one);
    else found.set(scopeName(goal), [one]);
  }
  return found;
}

/** Mean of targets, by weights; of targets of one scope, where its products' margins differ. */
export function meanTarget(rows: Iterable<{ targetAcos: number; weight: number }>, usual: number): number {
  let [sum, weights] = [0, 0];
  for (const { targetAcos, weight } of rows) {
    sum += targetAcos * weight;
    weights += weight;
  }
  return weights > 0 ? sum / weights : usual;
}

/**
 * Theta at the start of a scope, and the sentence that says why. Kept as it is, and held at 1 where it is used: a goal
 * moved down again starts from what it would have been.
 */
export function startOfScope(
  goal: GoalRow,
  ruled: readonly { row: TargetRow; targetAcos: number }[],
  adGroups: ReadonlyMap<string, AdGroupInfo>,
  usualTarget: number,
): Start & { reason: string } {
  let spend = 0;
  let bids = 0;
  for (const { row } of ruled) {
    if (row.bid === null) continue;
    spend += row.present.spend;
    bids += row.present.priced * row.bid * adGroups.get(row.adGroupId)!.modifier;
  }
  const rho = paidPerBid(spend, bids);
  const target =
    goal.objective === 'acos'
      ? goal.target_acos!
      : meanTarget(
          ruled.map(({ row, targetAcos }) => ({ targetAcos, weight: row.present.clicks })),
          usualTarget,
        );
  return {
    theta: target / rho,
    target_acos: target,
    reason: `Start: ${percent(target)} ÷ ${significant(rho)} paid per bid.`,
  };
}
