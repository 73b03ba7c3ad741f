import { marginSold, type Mix } from '../account/mix.ts';
import { Usuals, type WeekClicks } from './usual.ts';
import { presentCpc } from '../evidence/present-cpc.ts';
import type { AdGroupInfo, TargetRow } from '../account/rows.ts';
import { evidenceBid } from '../bids/evidence.ts';
import { guardBid, type GuardedBid } from '../bids/guards.ts';
import { wantedBid, type Method, type Wanted } from '../bids/methods.ts';
import { elasticityOver, responseAt, type Response } from '../effect/response.ts';
import { worthOfBid } from '../effect/worth.ts';
import { posterior } from '../evidence/prior.ts';
import { valuePerOrder } from '../evidence/value.ts';
import { probabilityOver, revenue, verdictOf, type Belief } from '../evidence/verdict.ts';
import { clamp } from '../metrics/clamp.ts';
import type { Day } from '../metrics/days.ts';
import { toStep, type Micros } from '../metrics/money.ts';
import type { Effect } from '../effect/types.ts';
import { bidEffect, clicksEffect, noEffect } from '../effect/weekly.ts';
import { Goals, type Goal, type SetGoal } from '../goals/goals.ts';
import { Pool, type Pooled } from '../evidence/pooling.ts';
import { budgetThetas, type Spender } from './budgets.ts';
import { bidRows, isGroupRow } from './group-bids.ts';
import { below, type Wants } from './wants.ts';
import type { Finding, Proposal, TargetsInput } from './types.ts';
import { worthOfTest, type TestPlan } from '../testing/plan.ts';

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

/** The goals of an account, or others in their place. */
export const goalsIn = (
  { goals, guards, products, mixes }: TargetsInput,
  set: readonly SetGoal[] = goals,
): Goals => new Goals(set, guards, (sku) => products.get(sku)?.margin ?? null, mixes);

/** What bids are judged on whatever the goals: beliefs of siblings, what is usual beside a target. */
export interface BidGround {
  input: TargetsInput;
  /** What has a bid. */
  rows: readonly TargetRow[];
  pool: Pool;
  usuals: Usuals;
}

const grounds = new WeakMap<TargetsInput, BidGround>();

/** The same for an input whoever asks, made once: it is most of the work. */
export function bidGround(input: TargetsInput): BidGround {
  let ground = grounds.get(input);
  if (!ground) grounds.set(input, (ground = makeGround(input)));
  return ground;
}

function makeGround(input: TargetsInput): BidGround {
  const pool = new Pool(input.products, input, input.mixes);
  for (const row of input.targets) {
    const adGroup = input.adGroups.get(row.adGroupId);
    if (adGroup) pool.add(adGroup, row);
  }
  const rows = bidRows(input);
  return { input, rows, pool, usuals: new Usuals(input.targets, input.adGroups, input.settledDays, rows) };
}

/** Theta that budgets leave to campaigns under these goals; null where budgets are not known. */
export const thetasOfBudgets = (
  { input, rows, pool, usuals }: BidGround,
  goals: Goals,
): ReadonlyMap<string, number> | null =>
  input.budgets
    ? budgetThetas(input.budgets, rows, input.adGroups, (row, adGroup) =>
        spenderOf(row, adGroup, input, pool, goals.of(adGroup), usuals),
      )
    : null;

/** A target with what is believed of it, whatever its goal. */
export interface Believed {
  row: TargetRow & { bid: Micros };
  adGroup: AdGroupInfo;
  pooled: Pooled;
  rho: number;
  belief: Belief;
  margin: number | null;
  response: Response;
  /** Clicks a week at the present bid, and those that this is known by. */
  week: WeekClicks;
  isQuiet: boolean;
  /** It is tried at its bid until then. */
  testedUntil: Day | null;
}

/** What is believed of a target that runs and has a bid; null of any other. */
export function believedOf(row: TargetRow, { input, pool, usuals }: BidGround): Believed | null {
  const adGroup = input.adGroups.get(row.adGroupId);
  if (!adGroup || !row.enabled || row.bid === null) return null;
  const pooled = pool.of(adGroup);
  const rho = usuals.rho(adGroup.campaignId);
  const belief = beliefOf(row, pooled, adGroup.modifier, rho);
  if (!(belief.value > 0)) return null;
  return {
    row: row as Believed['row'],
    adGroup,
    pooled,
    rho,
    belief,
    margin: marginSold(adGroup, (sku) => input.products.get(sku)?.margin ?? null, input.mixes),
    response: responseAt(responseIn(input, adGroup.campaignId), usuals.paid(row, adGroup)),
    week: usuals.week(row),
    isQuiet: row.impressions < quietShare * usuals.of(row.adGroupId).impressions,
    testedUntil: input.testing?.running.get(row.targetId)?.until ?? null,
  };
}

/** What a method wants of a target, and what the guards let through. */
export interface JudgedBid {
  wanted: Wanted;
  guarded: GuardedBid;
  /** What is wanted in whole bid steps within the marketplace's limits: what stands beyond the guards. */
  beyond: Micros;
}

/** P(over goal) of a target. */
export const overOf = ({ belief }: Believed, { targetAcos }: Goal): number | null =>
  probabilityOver(belief, targetAcos);

/** The bid of one target by one method under its goal; null where the method says nothing, or no change. */
export function judgedBid(
  one: Believed,
  over: number | null,
  goal: Goal,
  method: Method,
  goals: Goals,
  today: Day,
  budgetTheta: number | undefined,
): JudgedBid | null {
  const { row, adGroup, pooled, rho, belief } = one;
  const guards = goals.guardsOf(goal);
  const wanted = wantedBid(
    method,
    {
      row,
      bid: row.bid,
      quiet: one.isQuiet && verdictOf(over) !== 'over',
      gamma: belief.gamma,
      value: belief.value,
      modifier: adGroup.modifier,
      rho,
      mu: pooled.prior.mu,
    },
    goal,
    guards.floor,
  );
  if (wanted === null) return null;
  const affordable = () => evidenceBid(budgetTheta!, revenue(belief), adGroup.modifier);
  const guarded = guardBid(
    {
      wanted: wanted.bid,
      current: row.bid,
      highestCpc: row.highestCpc > 0 ? row.highestCpc : null,
      paidPerBid: rho * adGroup.modifier,
      affordable: budgetTheta === undefined ? null : affordable(),
      changedOn: row.changedOn,
      testedUntil: one.testedUntil,
      today,
      overSinceChange: row.changedOn === null ? null : overSinceChange(one, goal),
      rests: wanted.rest,
    },
    guards,
  );
  if (guarded.bid === null && !guarded.whole) return null;
  // Beyond its guards a bid still keeps the marketplace's limits.
  const beyond = clamp(toStep(wanted.bid, guards.step), guards.minimumBid, guards.maximumBid);
  return { wanted, guarded, beyond };
}

/** P(over goal) by the days since the last change alone. */
const overSinceChange = ({ row, belief, pooled }: Believed, { targetAcos }: Goal): number | null =>
  probabilityOver(
    {
      ...belief,
      gamma: posterior(pooled.prior, row.freshN, row.freshY),
      cpc: row.freshClicks > 0 ? row.freshSpend / row.freshClicks : null,
    },
    targetAcos,
  );

/** What going to a bid is worth a week at the scope's price of money, micros; never below nothing. */
export function worthOf(one: Believed, to: Micros, goal: Goal, { input, usuals }: BidGround): Micros {
  const { row, adGroup, rho, belief, response, week } = one;
  // What was never clicked is taken for one of its siblings: what it may become decides when to look at it.
  const known = row.present.clicks > 0;
  return Math.max(
    0,
    worthOfBid(
      known ? week.clicks : Math.max(week.clicks, usuals.of(row.adGroupId).weekClicks),
      row.bid * adGroup.modifier,
      to * adGroup.modifier,
      revenue(belief),
      goal.theta,
      elasticityOver(known ? response : responseAt(responseIn(input, adGroup.campaignId), rho), to / row.bid),
    ),
  );
}

/** What going to a bid does a week. */
export function effectOf(one: Believed, to: Micros, kappa: number | undefined): Effect {
  const { row, adGroup, rho, belief, margin, response, week } = one;
  if (!(week.clicks > 0)) return noEffect;
  const cpc = belief.cpc ?? rho * row.bid * adGroup.modifier;
  const now = { clicks: week.clicks, spend: week.clicks * cpc };
  return bidEffect(now, to / row.bid, response, belief, margin, kappa);
}

const effectOfTest = (
  { belief, margin }: Believed,
  { before, after }: TestPlan,
  kappa: number | undefined,
): Effect =>
  clicksEffect(before, after.clicks - before.clicks, after.spend - before.spend, belief, margin, kappa);

/** Judges one target by its goal's method; null when no change is wanted. */
export function judgeTarget(
  row: TargetRow,
  ground: BidGround,
  goals: Goals,
  thetas: ReadonlyMap<string, number> | null,
  test: TestPlan | undefined,
  wants: Wants,
): Finding | typeof below | null {
  const one = believedOf(row, ground);
  if (!one) return null;
  const goal = goals.of(one.adGroup);
  if (!(goal.theta > 0)) return null;
  const over = overOf(one, goal);
  const budgetTheta = thetas?.get(one.adGroup.campaignId);
  if (test) {
    const worth = worthOfTest(test);
    if (!wants(worth, row.spend)) return below;
    const { from, to } = test;
    const proposal: Proposal = { kind: 'bid', from, to, wanted: to, held: [], beyond: null, isTest: true };
    return findingOf(one, goal, over, ground, { proposal, to: test.to, worth, test, budgetTheta });
  }
  const judged = judgedBid(one, over, goal, goal.method, goals, ground.input.today, budgetTheta);
  if (!judged) return null;
  const { wanted, guarded, beyond } = judged;
  const from = one.row.bid;
  const to = guarded.bid ?? beyond;
  const worth = worthOf(one, to, goal, ground);
  if (!wants(worth, row.spend)) return below;
  const proposal: Proposal =
    guarded.bid === null
      ? {
          kind: 'wait',
          moreClicks: null,
          obstacle: null,
          held: { from, wanted: beyond, by: guarded.held.at(-1)! },
        }
      : {
          kind: 'bid',
          from,
          to,
          wanted: wanted.bid,
          held: guarded.held,
          ...(guarded.held.length > 0
            ? { beyond, heldWorth: Math.max(0, worthOf(one, beyond, goal, ground) - worth) }
            : { beyond: null }),
        };
  return findingOf(one, goal, over, ground, { proposal, to, worth, formula: wanted.formula, budgetTheta });
}

/** What the ad group of a finding sells, where that is several products. */
export function mixOfGroup({ mixes }: TargetsInput, { adGroupId }: AdGroupInfo): { mix?: Mix } {
  const mix = mixes?.get(adGroupId);
  return mix ? { mix } : {};
}

/** A finding about a target's bid, with its working. */
function findingOf(
  one: Believed,
  goal: Goal,
  over: number | null,
  { input }: BidGround,
  made: {
    proposal: Proposal;
    to: Micros;
    worth: Micros;
    formula?: (() => string) | null;
    budgetTheta: number | undefined;
    test?: TestPlan;
  },
): Finding {
  const { row, adGroup, pooled, belief, rho, response, week, margin } = one;
  const { proposal, to, worth, formula, budgetTheta, test } = made;
  return {
    key: isGroupRow(row) ? `${row.targetId}:bid` : `target:${row.targetId}:bid`,
    queue: 'targets',
    subject: row.expression,
    targetId: isGroupRow(row) ? '' : row.targetId,
    targetKind: isGroupRow(row) ? 'ad_group' : row.kind,
    matchType: row.matchType,
    target: row.expression,
    adGroupId: row.adGroupId,
    campaignId: adGroup.campaignId,
    sku: adGroup.sku,
    sums: sumsOf(row),
    n: row.n,
    y: row.y,
    seen: { clicks: row.seenClicks, orders: row.seenOrders, spend: row.seenSpend, sales: row.seenSales },
    verdict: verdictOf(over),
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
      objective: goal.objective,
      theta: goal.theta,
      method: goal.method,
      ...(formula ? { formula: formula() } : {}),
      modifier: adGroup.modifier,
      rho,
      ...(budgetTheta === undefined ? {} : { budgetTheta }),
      weekClicks: week.clicks,
      response,
      over,
      interval: null,
      quiet: one.isQuiet && verdictOf(over) !== 'over',
      margin,
      ...(input.kappa === undefined || input.kappa === 1 ? {} : { kappa: input.kappa }),
      // Its siblings tell what a rested target would get: no elasticity reaches from its floor to there.
      forecast: { clicksSeen: week.seen, ratio: test?.isRested ? null : to / row.bid },
      ...(test ? { test } : {}),
      ...mixOfGroup(input, adGroup),
    },
    proposal,
    effect: test ? effectOfTest(one, test, input.kappa) : effectOf(one, to, input.kappa),
    worth,
    claims: isGroupRow(row) ? row.members.map((targetId) => ({ targetId, clicks: 1, part: 1 })) : [],
    ...(isGroupRow(row) ? { members: row.members } : {}),
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
