import type { Claim } from '../effect/claims.ts';
import type { AdGroupInfo, Evidence, LaneCounts, TargetRow } from '../account/rows.ts';
import { evidenceBid } from '../bids/evidence.ts';
import { firstBid, type Guards } from '../bids/guards.ts';
import { toStep, type Micros } from '../metrics/money.ts';
import { posterior } from '../evidence/prior.ts';
import { valuePerOrder } from '../evidence/value.ts';
import { clicksForAnOrder, probabilityOver, revenue, verdictOf, type Belief } from '../evidence/verdict.ts';
import { LaneMap, mostLaneDays, type Lane, type LaneAdGroup, type LaneKind } from '../lanes/lanes.ts';
import { NegativeIndex, whyNoKeyword } from '../terms/match.ts';
import { movedPrior, wordsThatMove } from '../evidence/words.ts';
import { looseForms, normalise, wordsOf } from '../text/normalise.ts';
import { elasticityOver, responseAt } from '../effect/response.ts';
import { worthOfBid, worthOfEffect } from '../effect/worth.ts';
import { bidEffect, blockEffect, noEffect } from '../effect/weekly.ts';
import { guardsOf, type Goals } from '../goals/goals.ts';
import type { Pool } from '../evidence/pooling.ts';
import { responseIn, sumsOf } from './targets.ts';
import { below, type Wants } from './wants.ts';
import type { Finding, HarvestProposal, JudgeInput, Proposal, TargetsInput, Working } from './types.ts';

/** A term in one ad group: the sums over the targets that caught it there. */
export interface TermInAdGroup {
  term: string;
  evidence: Evidence;
  adGroup: AdGroupInfo;
  /** The target that caught most of its clicks. */
  target: TargetRow;
  targetClicks: number;
  /** All targets that caught it here, with the clicks each had of it in the window. */
  caught: { target: TargetRow; clicks: number }[];
  /** Other ad groups whose evidence is summed in here: they would send the term to the same place. */
  alsoFrom: string[];
  laneCounts: LaneCounts | null;
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

/** What exists already: keywords by product and ad group, negatives by place, lanes by source. */
export class Surroundings {
  readonly negatives = new Map<string, NegativeIndex>();
  readonly lanes: LaneMap;
  private readonly serving = new Map<string, TargetRow[]>();
  /** Exact keywords and items by ad group, and by what the warning of close variants folds once it is asked for. */
  private readonly single = new Map<string, TargetRow[]>();
  private readonly variants = new Map<string, Map<string, TargetRow>>();
  private readonly itemCode: RegExp;

  constructor(
    private readonly input: TargetsInput,
    lanes: readonly Lane[],
    adGroups: ReadonlyMap<string, LaneAdGroup>,
  ) {
    this.itemCode = new RegExp(input.limits.itemCode, 'i');
    this.lanes = new LaneMap(lanes, adGroups);
    for (const negative of input.negatives) {
      const place = negative.adGroupId ?? negative.campaignId;
      let index = this.negatives.get(place);
      if (!index) this.negatives.set(place, (index = new NegativeIndex()));
      index.add(negative);
    }
    for (const target of input.targets) {
      if (!target.enabled) continue;
      const single = target.kind === 'item' || (target.kind === 'keyword' && target.matchType === 'exact');
      if (!single) continue;
      const sku = input.adGroups.get(target.adGroupId)?.sku ?? '';
      const key = `${sku}\t${normalise(target.expression)}`;
      this.serving.set(key, [...(this.serving.get(key) ?? []), target]);
      const here = this.single.get(target.adGroupId);
      if (here) here.push(target);
      else this.single.set(target.adGroupId, [target]);
    }
  }

  /** The negative that blocks the term in this ad group, or null. */
  blocking(adGroup: AdGroupInfo, term: string) {
    return (
      this.negatives.get(adGroup.adGroupId)?.blocking(term) ??
      this.negatives.get(adGroup.campaignId)?.blocking(term) ??
      null
    );
  }

  /** Exact keywords and item targets that serve this very term for the product. */
  servedBy(sku: string | null, term: string): TargetRow[] {
    return this.serving.get(`${sku ?? ''}\t${normalise(term)}`) ?? [];
  }

  /** A close variant of the term among the keywords of an ad group, or null. */
  variantIn(adGroupId: string, term: string): TargetRow | null {
    let forms = this.variants.get(adGroupId);
    if (!forms) {
      forms = new Map();
      for (const target of this.single.get(adGroupId) ?? [])
        for (const form of looseForms(target.expression)) forms.set(form, target);
      this.variants.set(adGroupId, forms);
    }
    const [ordered, joined] = looseForms(term);
    return forms.get(ordered) ?? forms.get(joined) ?? null;
  }

  /** Where the lane of its ad group would send a term; null where none leads on. */
  destinationOf({ term, adGroup }: TermInAdGroup): string | null {
    return this.lanes.of(adGroup.adGroupId, this.isItemCode(term) ? 'item' : 'keyword')?.destination ?? null;
  }

  isItemCode(term: string): boolean {
    return this.itemCode.test(term);
  }

  nameOf(adGroupId: string): string {
    return this.input.adGroups.get(adGroupId)?.name ?? adGroupId;
  }
}

/** Clicks and orders of a term over the days that a lane counts. */
function countedBy(
  { kind, days }: Lane,
  { evidence, laneCounts }: TermInAdGroup,
): { clicks: number; orders: number } {
  if (days >= mostLaneDays || laneCounts === null)
    return { clicks: evidence.seenClicks, orders: evidence.seenOrders };
  return kind === 'keyword'
    ? { clicks: laneCounts.keywordClicks, orders: laneCounts.keywordOrders }
    : { clicks: laneCounts.itemClicks, orders: laneCounts.itemOrders };
}

/** What a term must show to be harvested; of research without a lane what a new lane would ask (domain, section 7.1). */
function isWinner(row: TermInAdGroup, lane: Lane | null, expectedAcos: number, goalAcos: number): boolean {
  if (lane === null)
    return row.evidence.seenOrders >= (row.adGroup.automatic ? 1 : 2) && expectedAcos <= goalAcos;
  const { clicks, orders } = countedBy(lane, row);
  return (
    orders >= lane.leastOrders && clicks >= lane.leastClicks && expectedAcos <= goalAcos * lane.goalShare
  );
}

/** What the lane's method wants for a first bid, micros, before any guard. */
function wantedBid({ firstBid: method, fixedBid }: Lane, row: TermInAdGroup, evidence: () => number): number {
  if (method === 'fixed') return fixedBid!;
  return method === 'source_cpc' ? row.evidence.spend / row.evidence.clicks : evidence();
}

/** A harvest down the source's lane, or the obstacle that keeps it from going there; null when it is served. */
function harvest(
  row: TermInAdGroup,
  kind: LaneKind,
  lane: Lane | null,
  belief: Belief,
  working: Working,
  input: JudgeInput,
  around: Surroundings,
  goals: Goals,
  rhoOf: (campaignId: string) => number,
): Proposal | null {
  const { adGroup, term } = row;
  const isItem = kind === 'item';
  const obstacle = (text: string): Proposal => ({ kind: 'wait', moreClicks: null, obstacle: text });
  const served = around.servedBy(adGroup.sku, term);
  if (lane && served.some((target) => target.adGroupId === lane.destination)) return null;
  if (!lane) {
    if (served.length > 0) return null;
    return obstacle(`It sells, and no lane for ${kind}s leads out of ${adGroup.name}.`);
  }
  const reason = isItem ? null : whyNoKeyword(term, input.limits);
  if (reason) return obstacle(`It sells and can't be a keyword: ${reason}`);
  const there = input.adGroups.get(lane.destination);
  if (!there?.enabled)
    return obstacle(
      `It sells, and ${there?.name ?? 'where its lane leads'} does not run: nothing added there would show.`,
    );

  const goal = goals.of(there);
  const guards = guardsOf(goal, input.guards);
  const rho = rhoOf(there.campaignId);
  const wanted = wantedBid(lane, row, () => evidenceBid(goal.theta, revenue(belief), there.modifier));
  const highest = row.evidence.highestCpc > 0 && lane.firstBid !== 'fixed' ? row.evidence.highestCpc : null;
  const { bid, held } = firstBid(wanted, highest, rho * there.modifier, guards);
  const warnings: string[] = [];
  for (const target of served) warnings.push(`${around.nameOf(target.adGroupId)} bids on it already.`);
  const variant = isItem ? null : around.variantIn(lane.destination, term);
  if (variant) warnings.push(`“${variant.expression}” there is a close variant.`);
  working.rho = rho;
  working.modifier = there.modifier;
  const proposal: HarvestProposal = {
    kind: 'harvest',
    adGroupId: lane.destination,
    targetKind: kind,
    matchType: lane.matchType,
    expression: isItem ? term.toUpperCase() : term,
    bid,
    wanted,
    firstBid: lane.firstBid,
    held,
    alsoFrom: row.alsoFrom,
    isolateIn: around.lanes.isolateIn(lane).filter((id) => {
      const place = input.adGroups.get(id);
      return place !== undefined && around.blocking(place, term) === null;
    }),
    warnings,
  };
  return proposal;
}

/** Whether anything can be said of a term: its research runs, it is not quiet, and nothing blocks it there. */
export function isOpen({ adGroup, target, evidence, term }: TermInAdGroup, around: Surroundings): boolean {
  const performance = target.kind === 'item' || target.matchType === 'exact';
  if (performance || !adGroup.enabled || isQuiet(evidence)) return false;
  return around.blocking(adGroup, term) === null;
}

/** Judges one term of one ad group; null when there is nothing to say. */
export function judgeTerm(
  row: TermInAdGroup,
  input: JudgeInput,
  pool: Pool,
  goals: Goals,
  around: Surroundings,
  rhoOf: (campaignId: string) => number,
  wants: Wants,
): Finding | typeof below | null {
  const { adGroup, target } = row;
  if (!isOpen(row, around)) return null;
  const goal = goals.of(adGroup);
  const pooled = pool.of(adGroup);
  const told = input.words?.size ? wordsThatMove(input.words, wordsOf(row.term)) : noWords;
  const prior = movedPrior(pooled.prior, told.sum);
  const margin = (adGroup.sku === null ? null : input.products.get(adGroup.sku)?.margin) ?? null;
  const cpc = row.evidence.spend / row.evidence.clicks;
  const belief: Belief = {
    gamma: posterior(prior, row.evidence.n, row.evidence.y),
    value: valuePerOrder(pooled.value, row.evidence.seenSales, row.evidence.seenOrders),
    cpc,
  };
  if (belief.value <= 0) return null;
  const over = probabilityOver(belief, goal.targetAcos);
  const verdict = verdictOf(over);
  const kind: LaneKind = around.isItemCode(row.term) ? 'item' : 'keyword';
  const lane = around.lanes.of(adGroup.adGroupId, kind);
  const wins = isWinner(row, lane, cpc / revenue(belief), goal.targetAcos);
  const wastes = !wins && isWaste(row, over, goal.bidFloor ?? input.guards.floor, pooled.prior.mu);
  if (!wins && !wastes) {
    if (verdict !== 'undecided') return null;
    if (!wants(0, row.evidence.spend)) return below;
  }
  const working: Working = {
    prior,
    levels: pooled.levels,
    gamma: belief.gamma,
    value: belief.value,
    siblingValue: pooled.value,
    cpc,
    targetAcos: goal.targetAcos,
    goalScope: goal.scope,
    goalKey: goal.key,
    theta: goal.theta,
    modifier: adGroup.modifier,
    rho: rhoOf(adGroup.campaignId),
    weekClicks: (row.evidence.clicks / input.settledDays) * 7,
    response: responseIn(input, adGroup.campaignId),
    over,
    interval: null,
    quiet: false,
    margin,
    ...(told.moved.length > 0 ? { words: told.moved.slice(0, 4) } : {}),
    ...(input.kappa === undefined || input.kappa === 1 ? {} : { kappa: input.kappa }),
  };
  const week = {
    clicks: (row.evidence.clicks / input.settledDays) * 7,
    spend: (row.evidence.spend / input.settledDays) * 7,
  };
  let proposal: Proposal = { kind: 'wait', moreClicks: null, obstacle: null };
  let effect = noEffect;
  let worth = 0;
  if (wins) {
    const harvested = harvest(row, kind, lane, belief, working, input, around, goals, rhoOf);
    if (harvested === null) return null;
    proposal = harvested;
    if (proposal.kind === 'harvest') {
      // The same as a bid going from the source's to its own; a source without a bid stands for what its clicks cost.
      const { rho } = working;
      const from = target.bid === null ? cpc / rho : target.bid * adGroup.modifier;
      const to = proposal.bid * working.modifier;
      const response = responseAt(working.response, cpc / from);
      working.response = response;
      effect = bidEffect(week, to / from, response, belief, margin, input.kappa);
      working.forecast = { clicksSeen: row.evidence.clicks, ratio: to / from };
      worth = Math.max(
        0,
        worthOfBid(week.clicks, from, to, revenue(belief), goal.theta, elasticityOver(response, to / from)),
      );
    }
  } else if (wastes) {
    proposal = {
      kind: 'negative',
      adGroupId: adGroup.adGroupId,
      matchType: kind === 'item' ? 'negative_item' : 'negative_exact',
      expression: row.term,
      milder: milderBid(target, guardsOf(goal, input.guards)),
    };
    effect = blockEffect(week, belief, margin, input.kappa);
    working.forecast = { clicksSeen: row.evidence.clicks, ratio: null };
    worth = Math.max(0, worthOfEffect(effect, goal.theta));
  }
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
    verdict,
    working,
    proposal,
    effect,
    worth,
    claims: proposal.kind === 'wait' ? [] : claimsOf(row, input.settledDays),
  };
}

/** The clicks of a week that a negative or a harvest takes from the targets that caught the term. */
const claimsOf = ({ caught }: TermInAdGroup, days: number): Claim[] =>
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

/** No order in the clicks in which an average row would have sold with 90 %, or surely over with the bid near its floor. */
function isWaste(row: TermInAdGroup, over: number | null, floor: number, mu: number): boolean {
  if (row.evidence.seenOrders === 0 && row.evidence.seenClicks >= clicksForAnOrder(mu)) return true;
  const bid = row.target.bid;
  return over !== null && over >= 0.9 && bid !== null && bid <= nearFloor * floor;
}
