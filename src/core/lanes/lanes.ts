import type { Micros } from '../metrics/money.ts';
import type { MatchType } from '../terms/match.ts';

/** An ad group as lanes see it. */
export interface LaneAdGroup {
  adGroupId: string;
  campaignId: string;
  name: string;
  campaign: string;
  automatic: boolean;
  /** The advertised product; null when it advertises none. */
  sku: string | null;
  enabled: boolean;
  /** It or its campaign is archived: nothing can be added there any more. */
  archived: boolean;
  /** What its targets are, when it has any. */
  targetKinds: ReadonlySet<string>;
  matchTypes: ReadonlySet<string>;
}

export type LaneKind = 'keyword' | 'item';
export type FirstBid = 'evidence' | 'source_cpc' | 'fixed';
/** Where a harvested term is blocked: in its source, in all research ad groups of the product, or nowhere. */
export type Isolation = 'product' | 'source' | 'none';

/** Where winners of one research ad group go, and when (domain, section 7.1). A source has at most one lane of a kind. */
export interface Lane {
  source: string;
  destination: string;
  kind: LaneKind;
  /** What a term becomes there; null in a lane for items. */
  matchType: MatchType | null;
  leastOrders: number;
  leastClicks: number;
  /** Expected ACOS at most this share of the goal: 1 is at the goal. */
  goalShare: number;
  /** Orders and clicks count over this many days before the window's end. */
  days: number;
  firstBid: FirstBid;
  /** Micros; only with `fixed`. */
  fixedBid: Micros | null;
  isolate: Isolation;
}

/** The days that evidence reaches back: the most that a lane can count over. */
export const mostLaneDays = 90;

/** Research that meets what shoppers type. */
export const catchesSearches = ({ automatic, matchTypes }: LaneAdGroup): boolean =>
  automatic || matchTypes.has('broad') || matchTypes.has('phrase');

/** Research that meets the pages they look at. A category beside items has its winners where they would go. */
export const catchesPages = ({ automatic, targetKinds }: LaneAdGroup): boolean =>
  automatic || (targetKinds.has('category') && !targetKinds.has('item'));

/** Automatic, broad, phrase and category targets are research (domain, section 2). */
export const isResearch = (adGroup: LaneAdGroup): boolean =>
  catchesSearches(adGroup) || catchesPages(adGroup);

/** What a lane begins with: one order out of automatic, two out of broad and phrase; evidence bid; blocked everywhere. */
export const newLane = (source: LaneAdGroup, destination: string, kind: LaneKind): Lane => ({
  source: source.adGroupId,
  destination,
  kind,
  matchType: kind === 'keyword' ? 'exact' : null,
  leastOrders: source.automatic ? 1 : 2,
  leastClicks: 0,
  goalShare: 1,
  days: mostLaneDays,
  firstBid: 'evidence',
  fixedBid: null,
  isolate: 'product',
});

/** What is wrong with a lane: a sentence, and the field it lies in. */
export interface LaneProblem {
  field: keyof Lane;
  message: string;
}

/** Why one lane cannot be among the others; null when it can. */
export function whyNoLane(
  lane: Lane,
  others: readonly Lane[],
  adGroups: ReadonlyMap<string, LaneAdGroup>,
): LaneProblem | null {
  const problem = (field: keyof Lane, message: string): LaneProblem => ({ field, message });
  const source = adGroups.get(lane.source);
  const destination = adGroups.get(lane.destination);
  if (!source) return problem('source', `There is no ad group “${lane.source}”.`);
  if (!destination) return problem('destination', `There is no ad group “${lane.destination}”.`);
  if (source === destination) return problem('destination', `${source.name} can't send terms to itself.`);
  if (source.archived) return problem('source', `${source.name} is archived: it catches nothing any more.`);
  if (destination.archived)
    return problem('destination', `${destination.name} is archived: nothing can be added to it.`);
  if (destination.automatic)
    return problem(
      'destination',
      `${destination.name} is automatic: it holds no keywords and no items of its own.`,
    );
  if (source.sku !== null && destination.sku !== null && source.sku !== destination.sku)
    return problem('destination', `${source.name} and ${destination.name} advertise different products.`);
  if (others.some((other) => other.source === lane.source && other.kind === lane.kind))
    return problem('source', `${source.name} has a lane for ${lane.kind}s already.`);
  if ((lane.kind === 'keyword') !== (lane.matchType !== null))
    return problem('matchType', 'A lane for keywords has a match type, a lane for items has none.');
  if ((lane.firstBid === 'fixed') !== (lane.fixedBid !== null))
    return problem('fixedBid', 'A fixed first bid needs its amount, and no other method has one.');
  const way = wayRound(lane, others);
  if (way) {
    const names = way.map((id) => adGroups.get(id)?.name ?? id).join(' → ');
    return problem('destination', `It would send terms in a loop: ${names}.`);
  }
  return null;
}

/** The way from a lane's destination back to its source; null when there is none. */
function wayRound(lane: Lane, others: readonly Lane[]): string[] | null {
  const seen = new Set<string>();
  const walk = (at: string, path: string[]): string[] | null => {
    if (at === lane.source) return path;
    if (seen.has(at)) return null;
    seen.add(at);
    for (const { source, destination } of others) {
      if (source !== at) continue;
      const way = walk(destination, [...path, destination]);
      if (way) return way;
    }
    return null;
  };
  return walk(lane.destination, [lane.source, lane.destination]);
}

/** What is wrong with a set of lanes, by the place of the lane in it. */
export function laneProblems(
  lanes: readonly Lane[],
  adGroups: ReadonlyMap<string, LaneAdGroup>,
): Map<number, LaneProblem> {
  const problems = new Map<number, LaneProblem>();
  const good: Lane[] = [];
  lanes.forEach((lane, at) => {
    const problem = whyNoLane(lane, good, adGroups);
    if (problem) problems.set(at, problem);
    else good.push(lane);
  });
  return problems;
}

/** The lanes of an account, looked up by the ad group that caught a term. */
export class LaneMap {
  private readonly bySource = new Map<string, Lane>();
  private readonly below = new Map<string, string[]>();
  /** Research ad groups by product. */
  private readonly research = new Map<string, string[]>();
  private readonly isolated = new Map<Lane, string[]>();

  constructor(
    lanes: readonly Lane[],
    private readonly adGroups: ReadonlyMap<string, LaneAdGroup>,
  ) {
    for (const lane of lanes) {
      this.bySource.set(`${lane.source}\t${lane.kind}`, lane);
      this.below.set(lane.source, [...(this.below.get(lane.source) ?? []), lane.destination]);
    }
    for (const adGroup of adGroups.values()) {
      if (!adGroup.enabled || !isResearch(adGroup) || adGroup.sku === null) continue;
      this.research.set(adGroup.sku, [...(this.research.get(adGroup.sku) ?? []), adGroup.adGroupId]);
    }
  }

  of(source: string, kind: LaneKind): Lane | null {
    return this.bySource.get(`${source}\t${kind}`) ?? null;
  }

  /**
   * Ad groups in which a term is blocked once it went down a lane. Not where it went, nor where it may go on to from
   * there: a negative exact would block the very keyword that was made.
   */
  isolateIn(lane: Lane): readonly string[] {
    let known = this.isolated.get(lane);
    if (!known) this.isolated.set(lane, (known = this.isolatedBy(lane)));
    return known;
  }

  private isolatedBy({ source, destination, isolate, kind }: Lane): string[] {
    if (isolate === 'none') return [];
    if (isolate === 'source') return [source];
    const onward = this.reach(destination);
    const sku = this.adGroups.get(source)?.sku ?? this.adGroups.get(destination)?.sku ?? '';
    const all = this.research.get(sku) ?? [];
    const catches = kind === 'keyword' ? catchesSearches : catchesPages;
    return (all.includes(source) ? all : [source, ...all]).filter(
      (id) => !onward.has(id) && (id === source || catches(this.adGroups.get(id)!)),
    );
  }

  private reach(from: string): Set<string> {
    const reached = new Set([from]);
    for (const at of reached) for (const next of this.below.get(at) ?? []) reached.add(next);
    return reached;
  }
}
