import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { Sums } from '../metrics/figures.ts';
import type { Running } from './running.ts';
import type { Objects, SumsColumns } from './store.ts';

/** The account in memory as the rows that are judged. */

/**
 * What a bid becomes on the mean of its clicks, by campaign: (1 + placement modifier), 1 where nothing was clicked, times
 * what its schedule makes of it (`scheduled`, by campaign id; left out where it has none).
 */
export function modifiersByCampaign(
  { campaigns, placements }: Objects,
  sums: SumsColumns,
  scheduled: ReadonlyMap<string, number>,
): Float64Array {
  const clicks = new Float64Array(campaigns.length);
  const raised = new Float64Array(campaigns.length);
  placements.forEach(({ campaign, modifier }, place) => {
    clicks[campaign]! += sums.clicks[place]!;
    raised[campaign]! += sums.clicks[place]! * (1 + (modifier ?? 0) / 100);
  });
  return raised.map(
    (sum, place) =>
      (clicks[place]! > 0 ? sum / clicks[place]! : 1) * (scheduled.get(campaigns[place]!.id) ?? 1),
  );
}

/** The ad groups in the order of their list. */
export const adGroupInfos = (
  { adGroups, campaigns }: Objects,
  runs: Running,
  modifiers: Float64Array | null = null,
): AdGroupInfo[] =>
  adGroups.map(({ id, name, campaign: place, sku, status, fields }, at) => {
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
      defaultBid:
        fields.default_bid === null || fields.default_bid === undefined ? null : Number(fields.default_bid),
    };
  });

export const productInfos = ({ products }: Objects): Map<string, ProductInfo> =>
  new Map(products.map(({ sku, title, price, margin }) => [sku, { sku, title, price, margin }]));

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
  /** Click-weighted mean of (1 + placement modifier) of its campaign, times that of its schedule. */
  modifier: number;
  /** The bid of targets without one of their own, micros; when it was changed last. */
  defaultBid?: Micros | null;
  defaultBidChangedOn?: Day | null;
}

export interface ProductInfo {
  sku: string;
  title: string;
  price: Micros;
  /** Share of price left before ads; null when costs are unknown. */
  margin: number | null;
}
