import { steerTheta } from '../../core/bids/evidence.ts';
import { addDays, daysBetween, windowEnding } from '../../core/metrics/days.ts';
import { posterior, valuePerOrder } from '../../core/evidence/prior.ts';
import { mean } from '../../core/evidence/gamma.ts';
import { percent, significant } from '../../core/metrics/format.ts';
import { Pool } from '../../core/round/pooling.ts';
import type { TargetRow, TargetsInput } from '../../core/round/types.ts';
import { touchGoals } from '../account/queries.ts';
import type { Database } from '../db/connection.ts';
import { loadJudgeInput, targetsInScope } from './input.ts';
import { clicksSince, goalRows, insertTheta, thetaRows } from './queries.ts';
import { accountById } from '../account/queries.ts';

/** Expected sales per click of every target, micros. */
function revenuePerClick(input: TargetsInput): Map<string, number> {
  const pool = new Pool(input.products);
  for (const row of input.targets) {
    const adGroup = input.adGroups.get(row.adGroupId);
    if (adGroup) pool.add(adGroup, row);
  }
  const revenue = (row: TargetRow): number => {
    const adGroup = input.adGroups.get(row.adGroupId);
    if (!adGroup) return 0;
    const pooled = pool.of(adGroup);
    const rate = mean(posterior(pooled.prior, row.n, row.y));
    return rate * valuePerOrder(pooled.value, row.sales, row.orders);
  };
  return new Map(input.targets.map((row) => [row.targetId, revenue(row)]));
}

/** One round of steering for every scope whose last one is at least 7 days old (guide, section 6.3). */
export async function steerThetas(sql: Database, accountId: number): Promise<void> {
  const account = await accountById(sql, accountId);
  if (!account?.today) return;
  const { today } = account;
  const known = await thetaRows(sql, accountId);
  const due = known.filter((row) => daysBetween(row.day, today) >= 7);
  if (due.length === 0) return;
  const loaded = await loadJudgeInput(sql, accountId, windowEnding(today, 60), false);
  if (!loaded) return;
  const revenue = revenuePerClick(loaded.input);
  const goals = await goalRows(sql, accountId);
  let steered = false;
  for (const row of due) {
    const goal = goals.find((one) => one.scope === row.scope && one.key === row.key);
    if (!goal) continue;
    const scope = targetsInScope(goal, goals, loaded.input.adGroups, loaded.input.targets);
    const inScope = new Set(scope.map((target) => target.targetId));
    const since = { days: daysBetween(row.day, today), clicks: 0, spend: 0, expectedSales: 0 };
    for (const { targetId, clicks, spend } of await clicksSince(sql, accountId, addDays(row.day, 1), today)) {
      if (!inScope.has(targetId)) continue;
      since.clicks += clicks;
      since.spend += spend;
      since.expectedSales += clicks * (revenue.get(targetId) ?? 0);
    }
    const before = (row.theta * goal.target_acos) / row.target_acos;
    const { theta, expectedAcos } = steerTheta(before, goal.target_acos, since);
    if (expectedAcos === null) continue;
    const reason =
      `It runs at ${percent(expectedAcos)} against ${percent(goal.target_acos)}: a bid may now be ` +
      `${significant(theta)} of its revenue per click instead of ${significant(before)}.`;
    const { scope: kind, key } = row;
    await insertTheta(sql, accountId, {
      scope: kind,
      key,
      day: today,
      theta,
      target_acos: goal.target_acos,
      reason,
    });
    steered = true;
  }
  if (steered) await touchGoals(sql, accountId);
}
