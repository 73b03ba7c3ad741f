import { presentCpc } from '../evidence/present-cpc.ts';
import type { AdGroupInfo, TargetRow } from '../account/rows.ts';
import { evidenceBid } from '../bids/evidence.ts';
import { guardBid, raiseQuantile } from '../bids/guards.ts';
import { elasticityOver, responseAt, type Response } from '../effect/response.ts';
import { worthOfBid } from '../effect/worth.ts';
import { quantileOf } from '../evidence/gamma.ts';
import { posterior } from '../evidence/prior.ts';
import { valuePerOrder } from '../evidence/value.ts';
import { probabilityOver, revenue, verdictOf, type Belief } from '../evidence/verdict.ts';
import { clamp } from '../metrics/clamp.ts';
import { toStep } from '../metrics/money.ts';
import { bidEffect, noEffect } from '../effect/weekly.ts';
import { guardsOf, type Goals, type Goal } from '../goals/goals.ts';
import type { Pool, Pooled } from '../evidence/pooling.ts';
import type { Spender } from './budgets.ts';
import { below, type Wants } from './wants.ts';
import type { Finding, Proposal, TargetsInput } from './types.ts';

/** Below this share of its siblings' median impressions a target is too quiet to know (domain, section 6.5). */
const quietShare = 0.2;

const median = (values: number[]): number => {
  if (values.length === 0) return 0;
  values.sort((a, b) => a - b);
  const middle = values.length >> 1;
  return values.length % 2 === 1 ? values[middle]! : (values[middle - 1]! + values[middle]!) / 2;
};

/** What targets of one ad group usually show and get. */
export interface Usual {
  /** Median impressions of the window. */
  impressions: number;
  /** Median clicks a week at their present bids, of those with a click. */
  weekClicks: number;
}

/** A week's clicks at the present bid; 0 where none came. */
export const weekClicks = ({ present }: TargetRow): number =>
  present.days > 0 ? (present.clicks / present.days) * 7 : 0;

/** What enabled targets of each ad group usually show and get. */
export function usualByAdGroup(targets: readonly TargetRow[]): Map<string, Usual> {
  const lists = new Map<string, { impressions: number[]; clicks: number[] }>();
  for (const target of targets) {
    if (!target.enabled) continue;
    let list = lists.get(target.adGroupId);
    if (!list) lists.set(target.adGroupId, (list = { impressions: [], clicks: [] }));
    list.impressions.push(target.impressions);
    const clicks = weekClicks(target);
    if (clicks > 0) list.clicks.push(clicks);
  }
  return new Map(
    [...lists].map(([id, { impressions, clicks }]) => [
      id,
      { impressions: median(impressions), weekClicks: median(clicks) },
    ]),
  );
}

/** What is believed of a target at its present bid, from its siblings and its own counts. */
export function beliefOf(row: TargetRow, pooled: Pooled, modifier: number, rho: number): Belief {
  return {
    gamma: posterior(pooled.prior, row.n, row.y),
    value: valuePerOrder(pooled.value, row.seenSales, row.seenOrders),
    cpc: presentCpc(row, modifier, rho),
  };
}

export const responseIn = (
  { response, responses }: Pick<TargetsInput, 'response' | 'responses'>,
  campaignId: string,
): Response => responses?.get(campaignId) ?? response;

/** What a target pays of its effective bid; null without a bid or a click ever. */
export const paidOf = (
  { bid }: Pick<TargetRow, 'bid'>,
  { cpc }: Pick<Belief, 'cpc'>,
  modifier: number,
): number | null => (bid === null || bid <= 0 || cpc === null ? null : cpc / (bid * modifier));

/** The revenue per click that a bid rests on: the mean; for a raise the stance's quantile, never turning it into a cut. */
function bidFor(row: TargetRow, belief: Belief, goal: Goal, modifier: number): number {
  const wanted = evidenceBid(goal.theta, revenue(belief), modifier);
  const quantile = raiseQuantile[goal.stance ?? 'even'];
  if (quantile === null || wanted <= row.bid!) return wanted;
  const careful = quantileOf(belief.gamma, quantile) * belief.value;
  return Math.max(row.bid!, evidenceBid(goal.theta, careful, modifier));
}

/** A target as it spends from its campaign's budget, and the theta of its goal. */
export function spenderOf(
  row: TargetRow,
  adGroup: AdGroupInfo,
  input: TargetsInput,
  pool: Pool,
  goal: Goal,
  rho: number,
): { spender: Spender; theta: number } | null {
  const belief = beliefOf(row, pool.of(adGroup), adGroup.modifier, rho);
  const clicks = weekClicks(row);
  if (row.bid === null || row.bid <= 0 || belief.cpc === null || clicks <= 0) return null;
  const response = responseAt(responseIn(input, adGroup.campaignId), paidOf(row, belief, adGroup.modifier));
  const spender = {
    spend: clicks * belief.cpc,
    perTheta: evidenceBid(1, revenue(belief), adGroup.modifier) / row.bid,
    elasticity: response.clicks + response.cpc,
  };
  return { spender, theta: goal.theta };
}

/** Judges one target by the evidence method; null when no change is wanted. */
export function judgeTarget(
  row: TargetRow,
  adGroup: AdGroupInfo,
  input: TargetsInput,
  pool: Pool,
  goals: Goals,
  rho: number,
  usual: Usual | undefined,
  budgetTheta: number | undefined,
  wants: Wants,
): Finding | typeof below | null {
  if (!row.enabled || row.bid === null) return null;
  const goal = goals.of(adGroup);
  const pooled = pool.of(adGroup);
  const margin = (adGroup.sku === null ? null : input.products.get(adGroup.sku)?.margin) ?? null;
  const belief = beliefOf(row, pooled, adGroup.modifier, rho);
  if (!(belief.value > 0) || !(goal.theta > 0)) return null;
  const over = probabilityOver(belief, goal.targetAcos);
  const verdict = verdictOf(over);
  const quiet = row.impressions < quietShare * (usual?.impressions ?? 0) && verdict !== 'over';
  const wanted = bidFor(row, belief, goal, adGroup.modifier);
  const guards = guardsOf(goal, input.guards);
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
      paidPerBid: rho * adGroup.modifier,
      affordable:
        budgetTheta === undefined ? null : evidenceBid(budgetTheta, revenue(belief), adGroup.modifier),
      changedOn: row.changedOn,
      today: input.today,
      overSinceChange: row.changedOn === null ? null : probabilityOver(fresh, goal.targetAcos),
    },
    guards,
  );
  if (guarded.bid === null && !guarded.whole) return null;

  const response = responseAt(responseIn(input, adGroup.campaignId), paidOf(row, belief, adGroup.modifier));
  const clicks = weekClicks(row);
  // Beyond its guards a bid still keeps the marketplace's limits.
  const beyond = clamp(toStep(wanted, guards.step), guards.minimumBid, guards.maximumBid);
  const to = guarded.bid ?? beyond;
  const worth = Math.max(
    0,
    worthOfBid(
      clicks > 0 ? clicks : (usual?.weekClicks ?? 0),
      row.bid * adGroup.modifier,
      to * adGroup.modifier,
      revenue(belief),
      goal.theta,
      elasticityOver(response, to / row.bid),
    ),
  );
  if (!wants(worth, row.spend)) return below;
  const effect =
    clicks > 0 && belief.cpc !== null
      ? bidEffect({ clicks, spend: clicks * belief.cpc }, to / row.bid, response, belief, margin, input.kappa)
      : noEffect;
  const proposal: Proposal =
    guarded.bid === null
      ? {
          kind: 'wait',
          moreClicks: null,
          obstacle: null,
          held: { from: row.bid, wanted: beyond, by: guarded.held[0]! },
        }
      : {
          kind: 'bid',
          from: row.bid,
          to,
          wanted,
          held: guarded.held,
          beyond: guarded.held.length > 0 ? beyond : null,
        };
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
    seen: { clicks: row.seenClicks, orders: row.seenOrders, spend: row.seenSpend, sales: row.seenSales },
    verdict,
    working: {
      prior: pooled.prior,
      levels: pooled.levels,
      gamma: belief.gamma,
      value: belief.value,
      siblingValue: pooled.value,
      cpc: belief.cpc,
      targetAcos: goal.targetAcos,
      goalScope: goal.scope,
      goalKey: goal.key,
      theta: goal.theta,
      modifier: adGroup.modifier,
      rho,
      ...(budgetTheta === undefined ? {} : { budgetTheta }),
      weekClicks: clicks,
      response,
      over,
      interval: null,
      quiet,
      margin,
      ...(input.kappa === undefined || input.kappa === 1 ? {} : { kappa: input.kappa }),
      forecast: { clicksSeen: row.present.clicks, ratio: to / row.bid },
    },
    proposal,
    effect,
    worth,
    claims: [],
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
