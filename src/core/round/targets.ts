import type { Usuals } from './usual.ts';
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
import type { Goals, Goal } from '../goals/goals.ts';
import type { Pool, Pooled } from '../evidence/pooling.ts';
import type { Spender } from './budgets.ts';
import { below, type Wants } from './wants.ts';
import type { Finding, Proposal, TargetsInput } from './types.ts';

/** Below this share of its siblings' median impressions a target is too quiet to know (domain, section 6.5). */
const quietShare = 0.2;

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
  usuals: Usuals,
): { spender: Spender; theta: number } | null {
  const belief = beliefOf(row, pool.of(adGroup), adGroup.modifier, usuals.rho(adGroup.campaignId));
  const { clicks } = usuals.week(row);
  if (row.bid === null || row.bid <= 0 || belief.cpc === null || clicks <= 0) return null;
  const response = responseAt(responseIn(input, adGroup.campaignId), usuals.paid(row, adGroup));
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
  usuals: Usuals,
  budgetTheta: number | undefined,
  wants: Wants,
): Finding | typeof below | null {
  if (!row.enabled || row.bid === null) return null;
  const goal = goals.of(adGroup);
  const pooled = pool.of(adGroup);
  const rho = usuals.rho(adGroup.campaignId);
  const margin = (adGroup.sku === null ? null : input.products.get(adGroup.sku)?.margin) ?? null;
  const belief = beliefOf(row, pooled, adGroup.modifier, rho);
  if (!(belief.value > 0) || !(goal.theta > 0)) return null;
  const over = probabilityOver(belief, goal.targetAcos);
  const verdict = verdictOf(over);
  const quiet = row.impressions < quietShare * usuals.of(row.adGroupId).impressions && verdict !== 'over';
  const wanted = bidFor(row, belief, goal, adGroup.modifier);
  const guards = goals.guardsOf(goal);
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

  const response = responseAt(responseIn(input, adGroup.campaignId), usuals.paid(row, adGroup));
  const { clicks, seen } = usuals.week(row);
  // Beyond its guards a bid still keeps the marketplace's limits.
  const beyond = clamp(toStep(wanted, guards.step), guards.minimumBid, guards.maximumBid);
  const to = guarded.bid ?? beyond;
  // What was never clicked is taken for one of its siblings: what it may become decides when to look at it.
  const known = row.present.clicks > 0;
  const worth = Math.max(
    0,
    worthOfBid(
      known ? clicks : Math.max(clicks, usuals.of(row.adGroupId).weekClicks),
      row.bid * adGroup.modifier,
      to * adGroup.modifier,
      revenue(belief),
      goal.theta,
      elasticityOver(known ? response : responseAt(responseIn(input, adGroup.campaignId), rho), to / row.bid),
    ),
  );
  if (!wants(worth, row.spend)) return below;
  const cpc = belief.cpc ?? rho * row.bid * adGroup.modifier;
  const effect =
    clicks > 0
      ? bidEffect({ clicks, spend: clicks * cpc }, to / row.bid, response, belief, margin, input.kappa)
      : noEffect;
  const proposal: Proposal =
    guarded.bid === null
      ? {
          kind: 'wait',
          moreClicks: null,
          obstacle: null,
          held: { from: row.bid, wanted: beyond, by: guarded.held.at(-1)! },
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
      forecast: { clicksSeen: seen, ratio: to / row.bid },
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
