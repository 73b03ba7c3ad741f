import { evidenceBid } from '../bids/evidence.ts';
import { guardBid } from '../bids/guards.ts';
import { below } from '../evidence/gamma.ts';
import { posterior, valuePerOrder } from '../evidence/prior.ts';
import { probabilityOver, revenue, verdictOf, type Belief } from '../evidence/verdict.ts';
import { clamp } from '../metrics/clamp.ts';
import { bidEffect, marginGained, noEffect, overspendAvoided } from './effect.ts';
import { guardsOf, type Goals } from './goals.ts';
import type { Pool } from './pooling.ts';
import type { AdGroupInfo, Finding, TargetRow, TargetsInput } from './types.ts';

/** Below this share of its siblings' median impressions a target is too quiet to know (guide, section 6.5). */
const quietShare = 0.2;

const median = (values: number[]): number => {
  if (values.length === 0) return 0;
  values.sort((a, b) => a - b);
  const middle = values.length >> 1;
  return values.length % 2 === 1 ? values[middle]! : (values[middle - 1]! + values[middle]!) / 2;
};

/** Median impressions of the enabled targets of each ad group. */
export function medianImpressions(targets: readonly TargetRow[]): Map<string, number> {
  const lists = new Map<string, number[]>();
  for (const target of targets) {
    if (!target.enabled) continue;
    const list = lists.get(target.adGroupId);
    if (list) list.push(target.impressions);
    else lists.set(target.adGroupId, [target.impressions]);
  }
  return new Map([...lists].map(([id, list]) => [id, median(list)]));
}

/** CPC per bid of each campaign, pooled, within [0.5, 1]; 0.7 before anything was clicked. */
export function paidPerBidByCampaign(
  targets: readonly TargetRow[],
  adGroups: ReadonlyMap<string, AdGroupInfo>,
): Map<string, number> {
  const sums = new Map<string, { spend: number; bids: number }>();
  for (const target of targets) {
    const adGroup = adGroups.get(target.adGroupId);
    if (!adGroup || target.bid === null || target.sinceClicks === 0) continue;
    const sum = sums.get(adGroup.campaignId) ?? { spend: 0, bids: 0 };
    sum.spend += target.sinceSpend;
    sum.bids += target.sinceClicks * target.bid * adGroup.modifier;
    sums.set(adGroup.campaignId, sum);
  }
  return new Map(
    [...sums].map(([id, { spend, bids }]) => [id, bids > 0 ? clamp(spend / bids, 0.5, 1) : 0.7]),
  );
}

/** A week's clicks and spend at the present bid: from the days since its last change when they show clicks. */
function weekOf(row: TargetRow, settledDays: number): { clicks: number; spend: number } {
  const recent = row.sinceDays >= 7 && row.sinceClicks > 0;
  const days = recent ? row.sinceDays : Math.max(1, settledDays);
  return {
    clicks: ((recent ? row.sinceClicks : row.clicks) / days) * 7,
    spend: ((recent ? row.sinceSpend : row.spend) / days) * 7,
  };
}

/** Judges one target by the evidence method; null when no change is worth a line. */
export function judgeTarget(
  row: TargetRow,
  adGroup: AdGroupInfo,
  input: TargetsInput,
  pool: Pool,
  goals: Goals,
  rho: number,
  siblingsMedian: number,
): Finding | null {
  if (!row.enabled || row.bid === null) return null;
  const goal = goals.of(adGroup);
  const pooled = pool.of(adGroup);
  const margin = (adGroup.sku === null ? null : input.products.get(adGroup.sku)?.margin) ?? null;
  const cpc =
    row.sinceClicks > 0 ? row.sinceSpend / row.sinceClicks : row.clicks > 0 ? row.spend / row.clicks : null;
  const belief: Belief = {
    gamma: posterior(pooled.prior, row.n, row.y),
    value: valuePerOrder(pooled.value, row.seenSales, row.seenOrders),
    cpc,
  };
  if (belief.value <= 0) return null;
  const over = probabilityOver(belief, goal.targetAcos);
  const verdict = verdictOf(over);
  const quiet = row.impressions < quietShare * siblingsMedian && verdict !== 'over';
  const rpc = quiet ? pooled.prior.mu * pooled.value : revenue(belief);
  const wanted = evidenceBid(goal.theta, rpc, adGroup.modifier);
  if (quiet && wanted <= row.bid) return null;
  // Neither clicks nor silence: nothing speaks for another bid yet.
  if (!quiet && row.seenClicks === 0) return null;
  const fresh: Belief = {
    ...belief,
    gamma: posterior(pooled.prior, row.freshN, row.freshY),
    cpc: row.freshClicks > 0 ? row.freshSpend / row.freshClicks : null,
  };
  const guarded = guardBid(
    {
      wanted,
      current: row.bid,
      highestCpc: row.highestCpc > 0 ? row.highestCpc : null,
      changedOn: row.changedOn,
      today: input.today,
      overSinceChange: row.changedOn === null ? null : probabilityOver(fresh, goal.targetAcos),
    },
    guardsOf(goal, input.guards),
  );
  if (guarded.bid === null) return null;

  const week = weekOf(row, input.settledDays);
  const raise = guarded.bid > row.bid;
  const effect = week.clicks > 0 ? bidEffect(week, guarded.bid / row.bid, belief, margin) : noEffect;
  // The chance that the present bid really lies on the wrong side of theta x RPC / M.
  const tooHigh = below(belief.gamma, (row.bid * adGroup.modifier) / (goal.theta * belief.value));
  const worth = raise
    ? marginGained(effect, margin, goal.targetAcos) * (1 - tooHigh)
    : overspendAvoided(effect, goal.targetAcos) * tooHigh;
  return {
    key: `target:${row.targetId}:bid`,
    queue: 'targets',
    subject: row.expression,
    targetId: row.targetId,
    targetKind: row.kind,
    matchType: row.matchType,
    target: row.expression,
    adGroupId: row.adGroupId,
    campaignId: adGroup.campaignId,
    sku: adGroup.sku,
    sums: sumsOf(row),
    n: row.n,
    y: row.y,
    seen: { clicks: row.seenClicks, orders: row.seenOrders, spend: row.seenSpend },
    verdict,
    working: {
      prior: pooled.prior,
      priorLevel: pooled.level,
      gamma: belief.gamma,
      value: belief.value,
      cpc,
      targetAcos: goal.targetAcos,
      goalScope: goal.scope,
      goalKey: goal.key,
      theta: goal.theta,
      modifier: adGroup.modifier,
      rho,
      over,
      interval: null,
      quiet,
      margin,
    },
    proposal: { kind: 'bid', from: row.bid, to: guarded.bid, wanted, held: guarded.held },
    effect,
    worth,
  };
}

export const sumsOf = (row: TargetRow | Finding['sums']): Finding['sums'] => ({
  impressions: row.impressions,
  clicks: row.clicks,
  spend: row.spend,
  orders: row.orders,
  units: row.units,
  sales: row.sales,
});
