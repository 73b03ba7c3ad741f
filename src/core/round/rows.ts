import { PairPlaces } from '../account/places.ts';
import type { Running } from '../account/running.ts';
import {
  emptySums,
  type EvidenceColumns,
  type FreshColumns,
  type Objects,
  type Pairs,
  type PresentColumns,
  type SumsColumns,
} from '../account/store.ts';
import { addTally, noSiblings } from '../evidence/siblings.ts';
import { paidPerBidByCampaign, presentCpc, usualPaidPerBid } from './targets.ts';
import { isQuiet } from './terms.ts';
import type {
  AdGroupInfo,
  Evidence,
  LaneCounts,
  ProductInfo,
  QuietTerms,
  TargetRow,
  TermRow,
  TermsInput,
} from './types.ts';

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
const evidenceAt = (
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

function targetRowAt(
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

/** CPC of every target at its present bid, micros, by place; NaN where nothing is known of it. See `presentCpc`. */
export function presentCpcs(
  objects: Objects,
  runs: Running,
  modifiers: Float64Array,
  figures: TargetFigures,
): Float64Array {
  const infos = adGroupInfos(objects, runs, modifiers);
  const rows = targetRows(objects, runs, figures);
  const rhos = paidPerBidByCampaign(rows, new Map(infos.map((info) => [info.adGroupId, info])));
  return Float64Array.from(objects.targets, ({ adGroup }, place) => {
    const { campaignId, modifier } = infos[adGroup]!;
    const row = targetRowAt(objects, runs, figures, place);
    return presentCpc(row, modifier, rhos.get(campaignId) ?? usualPaidPerBid) ?? NaN;
  });
}

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

/** What terms are judged by, a column each, by pair. */
export interface TermFigures {
  sums: SumsColumns;
  highestCpc: Float64Array | null;
  evidence: EvidenceColumns;
  /** Null where all lanes count over all days of evidence. */
  lanes: LaneColumns | null;
}

const countsAt = (lanes: LaneColumns, row: number): LaneCounts => ({
  keywordClicks: lanes.keywordClicks[row]!,
  keywordOrders: lanes.keywordOrders[row]!,
  itemClicks: lanes.itemClicks[row]!,
  itemOrders: lanes.itemOrders[row]!,
});

/** Terms that may become a finding, target by target; all others summed by ad group as siblings. */
export function termRows(
  objects: Objects,
  pairs: Pairs,
  { sums, highestCpc, evidence, lanes }: TermFigures,
): TermsInput {
  const { targets, adGroups } = objects;
  const { n, y, seen } = evidence;
  const places = termPlaces(objects, pairs);
  const grouped = (column: Float64Array): Float64Array => {
    const into = new Float64Array(places.count);
    for (let row = 0; row < places.of.length; row++) into[places.of[row]!]! += column[row]!;
    return into;
  };
  const clicks = grouped(sums.clicks);
  const seenClicks = grouped(seen.clicks);
  const seenOrders = grouped(seen.orders);
  /** Caught by an exact keyword or an item target only: there is nothing to harvest or to block. */
  const performs = new Uint8Array(places.count).fill(1);
  /** Seen within the days of evidence at all, and by which ad group. */
  const adGroupOf = new Int32Array(places.count).fill(-1);
  const single = Uint8Array.from(targets, ({ kind, matchType }) =>
    kind === 'item' || matchType === 'exact' ? 1 : 0,
  );
  for (let row = 0; row < places.of.length; row++) {
    const place = places.of[row]!;
    if (seen.impressions[row] === 0 && seen.clicks[row] === 0 && sums.impressions[row] === 0) continue;
    adGroupOf[place] = targets[pairs.target[row]!]!.adGroup;
    if (single[pairs.target[row]!] === 0) performs[place] = 0;
  }
  const quiet = Uint8Array.from({ length: places.count }, (_, place) =>
    performs[place] === 1 ||
    isQuiet({ clicks: clicks[place]!, seenClicks: seenClicks[place]!, seenOrders: seenOrders[place]! })
      ? 1
      : 0,
  );
  const quietTerms = new Map<string, QuietTerms>();
  const [sumN, sumY, sumSales] = [grouped(n), grouped(y), grouped(seen.sales)];
  for (let place = 0; place < places.count; place++) {
    if (quiet[place] === 0 || places.archived[place] === 1 || adGroupOf[place]! < 0) continue;
    const { id } = adGroups[adGroupOf[place]!]!;
    let known = quietTerms.get(id);
    if (!known) quietTerms.set(id, (known = { terms: 0, siblings: noSiblings(), orders: 0, sales: 0 }));
    known.terms++;
    known.orders += seenOrders[place]!;
    known.sales += sumSales[place]!;
    if (seenClicks[place] === 0) continue;
    known.siblings.n += sumN[place]!;
    known.siblings.y += sumY[place]!;
    addTally(known.siblings, seenClicks[place]!, seenOrders[place]!, 1);
  }
  const terms: TermRow[] = [];
  for (let row = 0; row < places.of.length; row++) {
    const place = places.of[row]!;
    if (quiet[place] === 1 || places.archived[place] === 1) continue;
    if (seen.clicks[row] === 0 && sums.impressions[row] === 0 && seen.impressions[row] === 0) continue;
    terms.push({
      targetId: targets[pairs.target[row]!]!.id,
      term: pairs.texts[pairs.term[row]!]!,
      ...evidenceAt(row, sums, evidence, highestCpc),
      laneCounts: lanes && countsAt(lanes, row),
    });
  }
  return { terms, quietTerms };
}
