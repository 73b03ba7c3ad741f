import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { Sums } from '../metrics/figures.ts';
import { PairPlaces } from './places.ts';
import type { Running } from './running.ts';
import {
  emptySums,
  type EvidenceColumns,
  type FreshColumns,
  type Objects,
  type Pairs,
  type PresentColumns,
  type SumsColumns,
} from './store.ts';

/** The account in memory as the rows that are judged. */

/** Click-weighted mean of (1 + placement modifier) by campaign; 1 where nothing was clicked. */
export function modifiersByCampaign({ campaigns, placements }: Objects, sums: SumsColumns): Float64Array {
  const clicks = new Float64Array(campaigns.length);
  const raised = new Float64Array(campaigns.length);
  placements.forEach(({ campaign, modifier }, place) => {
    clicks[campaign]! += sums.clicks[place]!;
    raised[campaign]! += sums.clicks[place]! * (1 + (modifier ?? 0) / 100);
  });
  return raised.map((sum, place) => (clicks[place]! > 0 ? sum / clicks[place]! : 1));
}

/** The ad groups in the order of their list. */
export const adGroupInfos = (
  { adGroups, campaigns }: Objects,
  runs: Running,
  modifiers: Float64Array | null = null,
): AdGroupInfo[] =>
  adGroups.map(({ id, name, campaign: place, sku, status }, at) => {
    const campaign = campaigns[place]!;
    return {
      adGroupId: id,
      name,
      campaignId: campaign.id,
      campaign: campaign.name,
      automatic: campaign.kind === 'automatic',
      sku,
      enabled: runs.adGroup(at),
      archived: status === 'archived' || campaign.status === 'archived',
      modifier: modifiers?.[place] ?? 1,
    };
  });

export const productInfos = ({ products }: Objects): Map<string, ProductInfo> =>
  new Map(products.map(({ sku, title, price, margin }) => [sku, { sku, title, price, margin }]));

/** One row of sums with its evidence. */
export const evidenceAt = (
  row: number,
  sums: SumsColumns,
  { n, y, seen }: EvidenceColumns,
  highest: Float64Array | null,
): Evidence => ({
  ...sums.read(row, emptySums()),
  n: n[row]!,
  y: y[row]!,
  seenClicks: seen.clicks[row]!,
  seenOrders: seen.orders[row]!,
  seenSpend: seen.spend[row]!,
  seenSales: seen.sales[row]!,
  highestCpc: highest?.[row] ?? 0,
});

/** What targets are judged by, a column each. */
export interface TargetFigures {
  sums: SumsColumns;
  highestCpc: Float64Array | null;
  evidence: EvidenceColumns;
  present: PresentColumns;
  fresh: FreshColumns | null;
}

export function targetRowAt(
  { targets, adGroups }: Objects,
  runs: Running,
  { sums, highestCpc, evidence, present, fresh }: TargetFigures,
  place: number,
): TargetRow {
  const { id, adGroup, kind, matchType, expression, bid, changedOn } = targets[place]!;
  return {
    targetId: id,
    adGroupId: adGroups[adGroup]!.id,
    kind: kind as TargetRow['kind'],
    matchType,
    expression,
    bid,
    enabled: runs.target(place),
    changedOn,
    present: {
      days: present.days[place]!,
      clicks: present.clicks[place]!,
      spend: present.spend[place]!,
      priced: present.priced[place]!,
    },
    freshN: fresh?.n[place] ?? 0,
    freshY: fresh?.orders[place] ?? 0,
    freshClicks: fresh?.clicks[place] ?? 0,
    freshSpend: fresh?.spend[place] ?? 0,
    ...evidenceAt(place, sums, evidence, highestCpc),
  };
}

/** Every target that is not archived. What was archived tells nothing of those that are left: they are its betters. */
export const targetRows = (objects: Objects, runs: Running, figures: TargetFigures): TargetRow[] =>
  [...objects.targets.keys()]
    .filter((place) => objects.targets[place]!.status !== 'archived')
    .map((place) => targetRowAt(objects, runs, figures, place));

/**
 * The place of each pair among the terms of ad groups: that is where a term is judged, whichever of its targets caught
 * it. Pairs of archived targets have places of their own.
 */
export function termPlaces(
  { targets, adGroups }: Objects,
  pairs: Pairs,
): { of: Int32Array; count: number; archived: Uint8Array } {
  const places = new PairPlaces();
  const adGroupOf = Int32Array.from(targets, ({ adGroup, status }) =>
    status === 'archived' ? adGroups.length + adGroup : adGroup,
  );
  const of = new Int32Array(pairs.target.length);
  for (let row = 0; row < of.length; row++)
    of[row] = places.add(adGroupOf[pairs.target[row]!]!, pairs.term[row]!);
  const archived = Uint8Array.from({ length: places.count }, (_, place) =>
    places.left(place) >= adGroups.length ? 1 : 0,
  );
  return { of, count: places.count, archived };
}

/** What lanes count over fewer days than the evidence, a column each. */
export interface LaneColumns {
  keywordClicks: Float64Array;
  keywordOrders: Float64Array;
  itemClicks: Float64Array;
  itemOrders: Float64Array;
}

/**
 * Sums of a row over the window, and its evidence over the season before the window's end: weighted clicks n and
 * orders y (domain, section 5), and what was seen there unweighted. What a shopper does after the click outlives the
 * window; CPC and volume do not.
 */
export interface Evidence extends Sums {
  n: number;
  y: number;
  seenClicks: number;
  seenOrders: number;
  seenSpend: Micros;
  seenSales: Micros;
  /** Highest CPC of a day in the window, micros; 0 without a click. */
  highestCpc: Micros;
}

export interface TargetRow extends Evidence {
  targetId: string;
  adGroupId: string;
  kind: 'keyword' | 'item' | 'category' | 'automatic';
  matchType: string | null;
  expression: string;
  bid: Micros | null;
  enabled: boolean;
  changedOn: Day | null;
  /** What it does at its present bid, of the last weeks. */
  present: PresentSums;
  /** All days since the last change, settling ones weighted: lifts the cooldown. */
  freshN: number;
  freshY: number;
  freshClicks: number;
  freshSpend: Micros;
}

/**
 * Clicks and spend of the last weeks, all days, each weighted by how long ago it is, and brought to the present bid: a
 * day at another bid counts for as many days at this one as the response says (domain, sections 5 and 11).
 */
export interface PresentSums {
  /** Sum of weights x (bid then / bid now)^e, e over the whole of that change: days at the present bid. */
  days: number;
  clicks: number;
  spend: Micros;
  /** Sum of weights x clicks x (bid then / bid now)^f: clicks at the present price. */
  priced: number;
}

export interface TermRow extends Evidence {
  targetId: string;
  term: string;
  /** What lanes count that look at fewer days than the evidence; null, of all rows, where no lane does. */
  laneCounts: LaneCounts | null;
}

/** Clicks and orders over the days that the lane for keywords, and the one for items, count. */
export interface LaneCounts {
  keywordClicks: number;
  keywordOrders: number;
  itemClicks: number;
  itemOrders: number;
}

export interface AdGroupInfo {
  adGroupId: string;
  name: string;
  campaignId: string;
  campaign: string;
  automatic: boolean;
  sku: string | null;
  enabled: boolean;
  archived: boolean;
  /** Click-weighted mean of (1 + placement modifier) of its campaign. */
  modifier: number;
}

export interface ProductInfo {
  sku: string;
  title: string;
  price: Micros;
  /** Share of price left before ads; null when costs are unknown. */
  margin: number | null;
}
