import type { AdGroupInfo, TargetRow } from '../account/rows.ts';
import type { TargetsInput } from './types.ts';

/**
 * Where targets have no bid of their own, the ad group's is theirs (domain, section 6): one row stands for all of them,
 * and what is proposed is for that bid.
 */

/** A row of an ad group whose targets are bid on together. */
export interface GroupRow extends TargetRow {
  /** The targets that it stands for. */
  members: readonly string[];
}

export const isGroupRow = (row: TargetRow): row is GroupRow => 'members' in row;

/** What has a bid: targets of their own, and ad groups for those that have none. */
export function bidRows({
  targets,
  adGroups,
}: Pick<TargetsInput, 'targets' | 'adGroups'>): readonly TargetRow[] {
  const members = new Map<string, TargetRow[]>();
  for (const row of targets) {
    if (row.bid !== null || !row.enabled) continue;
    const own = members.get(row.adGroupId);
    if (own) own.push(row);
    else members.set(row.adGroupId, [row]);
  }
  if (members.size === 0) return targets;
  const groups = [...members].flatMap(([id, rows]) => {
    const adGroup = adGroups.get(id);
    return adGroup?.defaultBid ? [groupRow(adGroup, adGroup.defaultBid, rows)] : [];
  });
  return [...targets.filter(({ bid }) => bid !== null), ...groups];
}

function groupRow(adGroup: AdGroupInfo, bid: number, rows: readonly TargetRow[]): GroupRow {
  const sum = (of: (row: TargetRow) => number) => rows.reduce((all, row) => all + of(row), 0);
  const most = (of: (row: TargetRow) => number) => Math.max(...rows.map(of));
  return {
    members: rows.map(({ targetId }) => targetId),
    targetId: `ad_group:${adGroup.adGroupId}`,
    adGroupId: adGroup.adGroupId,
    kind: rows[0]!.kind,
    matchType: null,
    expression: adGroup.name,
    bid,
    enabled: true,
    changedOn: adGroup.defaultBidChangedOn ?? null,
    // They were at this bid together: days are not added up.
    present: {
      days: most(({ present }) => present.days),
      clicks: sum(({ present }) => present.clicks),
      spend: sum(({ present }) => present.spend),
      priced: sum(({ present }) => present.priced),
    },
    freshN: sum(({ freshN }) => freshN),
    freshY: sum(({ freshY }) => freshY),
    freshClicks: sum(({ freshClicks }) => freshClicks),
    freshSpend: sum(({ freshSpend }) => freshSpend),
    impressions: sum(({ impressions }) => impressions),
    clicks: sum(({ clicks }) => clicks),
    spend: sum(({ spend }) => spend),
    orders: sum(({ orders }) => orders),
    units: sum(({ units }) => units),
    sales: sum(({ sales }) => sales),
    n: sum(({ n }) => n),
    y: sum(({ y }) => y),
    seenClicks: sum(({ seenClicks }) => seenClicks),
    seenOrders: sum(({ seenOrders }) => seenOrders),
    seenSpend: sum(({ seenSpend }) => seenSpend),
    seenSales: sum(({ seenSales }) => seenSales),
    highestCpc: most(({ highestCpc }) => highestCpc),
  };
}
