import type { Running } from '../account/running.ts';
import type { Objects } from '../account/store.ts';
import { type TargetRow, type AdGroupInfo, adGroupInfos } from '../account/rows.ts';
import { TargetAt, targetRows, type TargetFigures } from '../account/views.ts';
import { clamp } from '../metrics/clamp.ts';

/** What a click costs per bid in each campaign, pooled, within [0.3, 1]. */
export function paidPerBidByCampaign(
  targets: readonly TargetRow[],
  adGroups: ReadonlyMap<string, AdGroupInfo>,
): Map<string, number> {
  const sums = new Map<string, { spend: number; bids: number }>();
  for (const { adGroupId, bid, present } of targets) {
    const adGroup = adGroups.get(adGroupId);
    if (!adGroup || bid === null || present.clicks === 0) continue;
    const sum = sums.get(adGroup.campaignId) ?? { spend: 0, bids: 0 };
    sum.spend += present.spend;
    sum.bids += present.priced * bid * adGroup.modifier;
    sums.set(adGroup.campaignId, sum);
  }
  return new Map(
    [...sums].map(([id, { spend, bids }]) => [id, bids > 0 ? clamp(spend / bids, 0.3, 1) : usualPaidPerBid]),
  );
}

/** Before anything was clicked. */
export const usualPaidPerBid = 0.7;

/** Weight of the campaign's CPC per bid in a target's own, in clicks. */
const ownPriceWeight = 5;

/** CPC at the present bid, micros: the target's own, pooled to its campaign's CPC per bid; null without a click ever. */
export function presentCpc(row: TargetRow, modifier: number, rho: number): number | null {
  const { present, bid } = row;
  if (bid === null) return row.clicks > 0 ? row.spend / row.clicks : null;
  if (present.clicks === 0 && row.seenClicks === 0) return null;
  const usual = rho * bid * modifier;
  return (ownPriceWeight * usual + present.spend) / (ownPriceWeight + present.priced);
}

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
    const row = new TargetAt(objects, runs, figures, place);
    return presentCpc(row, modifier, rhos.get(campaignId) ?? usualPaidPerBid) ?? NaN;
  });
}
