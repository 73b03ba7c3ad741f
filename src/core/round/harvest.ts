import type { AdGroupInfo, TargetRow } from '../account/rows.ts';
import { evidenceBid } from '../bids/evidence.ts';
import { firstBid } from '../bids/guards.ts';
import type { Micros } from '../metrics/money.ts';
import { revenue, type Belief } from '../evidence/verdict.ts';
import { mostLaneDays, type Lane, type LaneKind } from '../lanes/lanes.ts';
import { whyNoKeyword } from '../terms/match.ts';
import type { Goals } from '../goals/goals.ts';
import type { TermInAdGroup } from './terms.ts';
import type { Surroundings } from './surroundings.ts';
import type { HarvestProposal, JudgeInput } from './types.ts';

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
export function isWinner(
  row: TermInAdGroup,
  lane: Lane | null,
  expectedAcos: number,
  goalAcos: number,
): boolean {
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

/** Where a winner goes, and its first bid there. */
interface Way {
  lane: Lane;
  there: AdGroupInfo;
  rho: number;
  bid: Micros;
  wanted: Micros;
  held: HarvestProposal['held'];
  /** Who bids on it already, elsewhere. */
  served: readonly TargetRow[];
}

/** The way down the source's lane, or as a sentence the obstacle in it; null when the term is served there. */
export function wayOf(
  row: TermInAdGroup,
  kind: LaneKind,
  lane: Lane | null,
  belief: Belief,
  input: JudgeInput,
  around: Surroundings,
  goals: Goals,
  rhoOf: (campaignId: string) => number,
): Way | string | null {
  const { adGroup, term, evidence } = row;
  const served = around.servedBy(adGroup.sku, term);
  if (!lane) {
    if (served.length > 0) return null;
    return `It sells, and no lane for ${kind}s leads out of ${adGroup.name}.`;
  }
  if (served.some((target) => target.adGroupId === lane.destination)) return null;
  const reason = kind === 'item' ? null : whyNoKeyword(term, input.limits);
  if (reason) return `It sells and can't be a keyword: ${reason}`;
  const there = input.adGroups.get(lane.destination);
  if (!there?.enabled)
    return `It sells, and ${there?.name ?? 'where its lane leads'} does not run: nothing added there would show.`;
  const goal = goals.of(there);
  const rho = rhoOf(there.campaignId);
  const wanted = wantedBid(lane, row, () => evidenceBid(goal.theta, revenue(belief), there.modifier));
  const highest = evidence.highestCpc > 0 && lane.firstBid !== 'fixed' ? evidence.highestCpc : null;
  const { bid, held } = firstBid(wanted, highest, rho * there.modifier, goals.guardsOf(goal));
  return { lane, there, rho, bid, wanted, held, served };
}

/** The harvest itself, with what to know about it. */
export function harvest(
  { term, alsoFrom }: TermInAdGroup,
  kind: LaneKind,
  { lane, bid, wanted, held, served }: Way,
  input: JudgeInput,
  around: Surroundings,
): HarvestProposal {
  const isItem = kind === 'item';
  const warnings = served.map((target) => `${around.nameOf(target.adGroupId)} bids on it already.`);
  const variant = isItem ? null : around.variantIn(lane.destination, term);
  if (variant) warnings.push(`“${variant.expression}” there is a close variant.`);
  return {
    kind: 'harvest',
    adGroupId: lane.destination,
    targetKind: kind,
    matchType: lane.matchType,
    expression: isItem ? term.toUpperCase() : term,
    bid,
    wanted,
    firstBid: lane.firstBid,
    held,
    alsoFrom,
    isolateIn: around.lanes.isolateIn(lane).filter((id) => {
      const place = input.adGroups.get(id);
      return place !== undefined && around.blocking(place, term) === null;
    }),
    warnings,
  };
}
