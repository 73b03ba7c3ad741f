import { marginSold } from '../account/mix.ts';
import type { Claim } from '../effect/claims.ts';
import type { AdGroupInfo, Evidence, LaneCounts, TargetRow } from '../account/rows.ts';
import { type Guards } from '../bids/guards.ts';
import { toStep, type Micros } from '../metrics/money.ts';
import { posterior, type Prior } from '../evidence/prior.ts';
import { valuePerOrder } from '../evidence/value.ts';
import { clicksForAnOrder, probabilityOver, revenue, verdictOf, type Belief } from '../evidence/verdict.ts';
import type { Lane, LaneKind } from '../lanes/lanes.ts';
import { movedPrior, wordsThatMove } from '../evidence/words.ts';
import { wordsOf } from '../text/normalise.ts';
import { elasticityOver, responseAt } from '../effect/response.ts';
import { worthOfBid, worthOfEffect } from '../effect/worth.ts';
import { bidEffect, blockEffect, noEffect } from '../effect/weekly.ts';
import type { Goal, Goals } from '../goals/goals.ts';
import type { Effect } from '../effect/types.ts';
import type { Pool, Pooled } from '../evidence/pooling.ts';
import { responseIn, sumsOf, mixOfGroup } from './targets.ts';
import { below, belowHarvest, type Below, type Wants } from './wants.ts';
import type { Finding, JudgeInput, Proposal, Working } from './types.ts';

import { harvest, isWinner, wayOf } from './harvest.ts';
import type { Surroundings } from './surroundings.ts';
/** A target that caught a term, and the clicks it had of it in the window. */
export interface Caught {
  target: TargetRow;
  clicks: number;
}

/** A term in one ad group: the sums over the targets that caught it there. */
export interface TermInAdGroup {
  readonly term: string;
  readonly evidence: Evidence;
  readonly adGroup: AdGroupInfo;
  /** The target that caught most of its clicks; of equal ones the oldest. */
  readonly target: TargetRow;
  /** All targets that caught it here. */
  readonly caught: readonly Caught[];
  /** Other ad groups whose evidence is summed in here: they would send the term to the same place. */
  readonly alsoFrom: readonly string[];
  readonly laneCounts: LaneCounts | null;
}

const noWords: ReturnType<typeof wordsThatMove> = { sum: 0, moved: [] };

/** A bid at most this many floors high is near the floor. */
const nearFloor = 2;
/** An undecided term is listed from this many clicks, or from its first order. */
export const clicksToList = 6;

/**
 * Most terms of a large account have a click or two and no order, or no click in the window: they can neither be
 * harvested nor known to waste.
 */
export const isQuiet = ({
  clicks,
  seenClicks,
  seenOrders,
}: Pick<Evidence, 'clicks' | 'seenClicks' | 'seenOrders'>): boolean =>
  clicks === 0 || (seenOrders === 0 && seenClicks < clicksToList);

/** Whether anything can be said of a term: its research runs, it is not quiet, and nothing blocks it there. */
export function isOpen({ adGroup, target, evidence, term }: TermInAdGroup, around: Surroundings): boolean {
  const performance = target.kind === 'item' || target.matchType === 'exact';
  if (performance || !adGroup.enabled || isQuiet(evidence)) return false;
  return around.blocking(adGroup, term) === null;
}

/** What to do about a term, what that does, and what of the working it changes. */
export interface Act {
  kind: Proposal['kind'];
  /** Made where it is shown: who would be isolated and warned of takes longer than all else. */
  proposal: () => Proposal;
  effect: Effect;
  worth: Micros;
  working?: Pick<Working, 'forecast'> & Partial<Pick<Working, 'rho' | 'modifier' | 'response'>>;
}

const wait = (obstacle: string | null): Act => ({
  kind: 'wait',
  proposal: () => ({ kind: 'wait', moreClicks: null, obstacle }),
  effect: noEffect,
  worth: 0,
});

/** What terms are judged on beside their goals. */
export interface TermGround {
  input: JudgeInput;
  pool: Pool;
  around: Surroundings;
  rhoOf: (campaignId: string) => number;
}

/** A term with what is believed of it, whatever its goal. */
export interface BelievedTerm {
  row: TermInAdGroup;
  pooled: Pooled;
  /** What words tell of it. */
  told: ReturnType<typeof wordsThatMove>;
  prior: Prior;
  belief: Belief;
  margin: number | null;
  kind: LaneKind;
  lane: Lane | null;
  /** Clicks and spend of a week. */
  week: { clicks: number; spend: Micros };
}

/** What is believed of a term; null where nothing can be said of it. */
export function believedTerm(row: TermInAdGroup, { input, pool, around }: TermGround): BelievedTerm | null {
  if (!isOpen(row, around)) return null;
  const { adGroup, evidence } = row;
  const pooled = pool.of(adGroup);
  const told = input.words?.size ? wordsThatMove(input.words, wordsOf(row.term)) : noWords;
  const prior = movedPrior(pooled.prior, told.sum);
  const { clicks, spend } = evidence;
  const belief: Belief = {
    gamma: posterior(prior, evidence.n, evidence.y),
    value: valuePerOrder(pooled.value, evidence.seenSales, evidence.seenOrders),
    cpc: spend / clicks,
  };
  if (belief.value <= 0) return null;
  const kind: LaneKind = around.isItemCode(row.term) ? 'item' : 'keyword';
  return {
    row,
    pooled,
    told,
    prior,
    belief,
    margin: marginSold(adGroup, (sku) => input.products.get(sku)?.margin ?? null, input.mixes),
    kind,
    lane: around.lanes.of(adGroup.adGroupId, kind),
    week: { clicks: (clicks / input.settledDays) * 7, spend: (spend / input.settledDays) * 7 },
  };
}

/**
 * What to do about a term under its goal; null when there is nothing to say. `over`: P(over goal), where it is asked;
 * `withWaits`: what only waits for clicks is something to say.
 */
export function actOn(
  one: BelievedTerm,
  goal: Goal,
  over: () => number | null,
  goals: Goals,
  { input, around, rhoOf }: TermGround,
  wants: Wants,
  withWaits = true,
): Act | Below | null {
  const { row, pooled, belief, margin, kind, lane, week } = one;
  const { adGroup, target, evidence } = row;
  const { clicks, spend } = evidence;
  const cpc = belief.cpc!;
  const wins = isWinner(row, lane, cpc / revenue(belief), goal.targetAcos);
  const wastes = !wins && isWaste(row, over, goal.bidFloor ?? input.guards.floor, pooled.prior.mu);
  if (!wins && !wastes) {
    if (!withWaits || verdictOf(over()) !== 'undecided') return null;
    return wants(0, spend) ? wait(null) : below;
  }
  if (wastes) {
    const effect = blockEffect(week, belief, margin, input.kappa);
    const worth = Math.max(0, worthOfEffect(effect, goal.theta));
    if (!wants(worth, spend)) return below;
    const proposal = (): Proposal => ({
      kind: 'negative',
      adGroupId: adGroup.adGroupId,
      matchType: kind === 'item' ? 'negative_item' : 'negative_exact',
      expression: row.term,
      milder: milderBid(target, goals.guardsOf(goal)),
    });
    return {
      kind: 'negative',
      proposal,
      effect,
      worth,
      working: { forecast: { clicksSeen: clicks, ratio: null } },
    };
  }
  const way = wayOf(row, kind, lane, belief, input, around, goals, rhoOf);
  if (way === null) return null;
  if (typeof way === 'string') return wants(0, spend) ? wait(way) : below;
  // The same as a bid going from the source's to its own; a source without a bid stands for what its clicks cost.
  const { rho, bid, there } = way;
  const from = target.bid === null ? cpc / rho : target.bid * adGroup.modifier;
  const to = bid * there.modifier;
  const response = responseAt(responseIn(input, adGroup.campaignId), cpc / from);
  const elasticity = elasticityOver(response, to / from);
  const worth = Math.max(0, worthOfBid(week.clicks, from, to, revenue(belief), goal.theta, elasticity));
  if (!wants(worth, spend)) return belowHarvest;
  return {
    kind: 'harvest',
    proposal: () => harvest(row, kind, way, input, around),
    effect: bidEffect(week, to / from, response, belief, margin, input.kappa),
    worth,
    working: {
      rho,
      modifier: there.modifier,
      response,
      forecast: { clicksSeen: clicks, ratio: to / from },
    },
  };
}

/** Judges one term of one ad group; null when there is nothing to say. */
export function judgeTerm(
  row: TermInAdGroup,
  ground: TermGround,
  goals: Goals,
  wants: Wants,
): Finding | Below | null {
  const one = believedTerm(row, ground);
  if (!one) return null;
  const { input, rhoOf } = ground;
  const { adGroup, target } = row;
  const { pooled, told, prior, belief, margin, week } = one;
  const goal = goals.of(adGroup);
  const over = probabilityOver(belief, goal.targetAcos);
  const acted = actOn(one, goal, () => over, goals, ground, wants);
  if (acted === null || typeof acted === 'symbol') return acted;
  const { effect, worth } = acted;
  const proposal = acted.proposal();
  const working: Working = {
    prior,
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
    rho: rhoOf(adGroup.campaignId),
    weekClicks: week.clicks,
    response: responseIn(input, adGroup.campaignId),
    over,
    interval: null,
    quiet: false,
    margin,
    ...(told.moved.length > 0 ? { words: told.moved.slice(0, 4) } : {}),
    ...(input.kappa === undefined || input.kappa === 1 ? {} : { kappa: input.kappa }),
    ...mixOfGroup(input, adGroup),
    ...acted.working,
  };
  return {
    key: `term:${adGroup.adGroupId}:${row.term}`,
    queue: 'terms',
    subject: row.term,
    targetId: target.targetId,
    targetKind: target.kind,
    matchType: target.matchType,
    target: target.expression,
    adGroupId: adGroup.adGroupId,
    campaignId: adGroup.campaignId,
    sku: adGroup.sku,
    sums: sumsOf(row.evidence),
    n: row.evidence.n,
    y: row.evidence.y,
    seen: {
      clicks: row.evidence.seenClicks,
      orders: row.evidence.seenOrders,
      spend: row.evidence.seenSpend,
      sales: row.evidence.seenSales,
    },
    verdict: verdictOf(over),
    working,
    proposal,
    effect,
    worth,
    claims: proposal.kind === 'wait' ? [] : claimsOf(row, input.settledDays),
  };
}

/** The clicks of a week that a negative or a harvest takes from the targets that caught the term. */
export const claimsOf = ({ caught }: TermInAdGroup, days: number): Claim[] =>
  caught
    .filter(({ clicks }) => clicks > 0)
    .map(({ target, clicks }) => ({
      targetId: target.targetId,
      clicks: (clicks / days) * 7,
      part: Math.min(1, clicks / Math.max(clicks, target.clicks)),
    }));

/** A bid lower by a quarter (domain, section 7.2: 20-30 %), not below floor and minimum; null where that is no cut. */
function milderBid({ bid }: TargetRow, guards: Guards): { from: Micros; to: Micros } | null {
  if (bid === null) return null;
  const to = Math.max(toStep(bid * 0.75, guards.step), guards.floor, guards.minimumBid);
  return to < bid ? { from: bid, to } : null;
}

/** No order in the clicks in which an average row would have sold with 90 %, whatever the goal. */
export const isWasteByCount = ({ evidence }: TermInAdGroup, mu: number): boolean =>
  evidence.seenOrders === 0 && evidence.seenClicks >= clicksForAnOrder(mu);

/** Whether a bid stands so near a floor that it cannot fall much. */
export const isNearFloor = (bid: Micros | null, floor: Micros): boolean =>
  bid !== null && bid <= nearFloor * floor;

/** No order in the clicks in which an average row would have sold with 90 %, or surely over with the bid near its floor. */
function isWaste(row: TermInAdGroup, over: () => number | null, floor: number, mu: number): boolean {
  return isWasteByCount(row, mu) || (isNearFloor(row.target.bid, floor) && (over() ?? 0) >= 0.9);
}
