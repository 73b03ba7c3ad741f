import type { Micros } from '../metrics/money.ts';
import type { AdGroupInfo, TargetRow } from '../account/rows.ts';
import { paidPerBidByCampaign, usualPaidPerBid } from '../evidence/present-cpc.ts';
import { clamp } from '../metrics/clamp.ts';

/** What targets of one ad group usually show and get. */
export interface Usual {
  /** Median impressions of the window. */
  impressions: number;
  /** Median clicks a week at their present bids, of those with a click. */
  weekClicks: number;
  /** Median bid of those with a click, micros. */
  bid: Micros;
  /** Clicks per impression, drawn to the account's. */
  ctr: number;
}

/** A week's clicks at the present bid, and the clicks that this is known by. */
export interface WeekClicks {
  clicks: number;
  seen: number;
}

/** Weight of what impressions promise in the clicks of a target, and of the account in an ad group's CTR, in clicks. */
const promisedWeight = 2;

/** Weight of what its clicks a week let expect in what a target pays per bid, in clicks. */
const paidWeight = 5;

/**
 * By how much paid per bid falls with ln clicks a week. In the crowds of the laboratory elasticities of rarely shown
 * targets are then right on the mean (decision 018); what clicked targets pay tells less, since those that are outbid
 * are not among them.
 */
const fall = 0.05;
/** Where nothing or more than the bid would be paid, no auction is described. */
const paidBounds = [0.1, 0.95] as const;

/**
 * What targets usually show, get and pay: what a target is taken for where its own clicks say little (domain, section
 * 11). Whoever is shown rarely at a bid is mostly outbid and pays nearly all of the bid when not; whoever is shown
 * often pays a smaller part of it.
 */
export class Usuals {
  private readonly groups: Map<string, Usual>;
  private readonly rhos: Map<string, number>;
  /** By campaign: ln clicks a week at which its paid per bid holds. */
  private readonly at: ReadonlyMap<string, number>;

  constructor(
    targets: readonly TargetRow[],
    adGroups: ReadonlyMap<string, AdGroupInfo>,
    /** Days of the window that impressions were counted in. */
    private readonly days: number,
    /** What has a bid, where that is not each target by itself (group-bids.ts). */
    bids: readonly TargetRow[] = targets,
  ) {
    this.groups = usualByAdGroup(targets);
    this.rhos = paidPerBidByCampaign(bids, adGroups);
    this.at = this.usualClicks(bids, adGroups);
  }

  of(adGroupId: string): Usual {
    return this.groups.get(adGroupId) ?? { impressions: 0, weekClicks: 0, bid: 0, ctr: 0 };
  }

  /** CPC per bid of a campaign. */
  rho(campaignId: string): number {
    return this.rhos.get(campaignId) ?? usualPaidPerBid;
  }

  /**
   * Clicks a week at the present bid: the target's own, drawn to what its impressions promise at the usual CTR. A few
   * clicks say little of a week, and none does not mean that none come; impressions are counted by the dozen before.
   */
  week({ present, impressions, adGroupId }: TargetRow): WeekClicks {
    const promised = (impressions * this.of(adGroupId).ctr) / this.days;
    const weight = promised > 0 ? promisedWeight : 0;
    const days = present.days + (promised > 0 ? weight / promised : 0);
    const seen = present.clicks + weight;
    return { clicks: days > 0 ? (seen / days) * 7 : 0, seen };
  }

  /** Paid per effective bid at so many clicks a week, before the target's own clicks are heard. */
  private expectedPaid(campaignId: string, clicks: number): number {
    const at = this.at.get(campaignId);
    const rho = this.rho(campaignId);
    if (at === undefined || clicks <= 0) return rho;
    return clamp(rho - fall * (Math.log(clicks) - at), ...paidBounds);
  }

  /** What a target pays of its effective bid. */
  paid(row: TargetRow, { campaignId, modifier }: AdGroupInfo): number {
    const { present, bid } = row;
    const expected = this.expectedPaid(campaignId, this.week(row).clicks);
    const bids = present.priced * bid! * modifier;
    if (present.clicks === 0 || bids <= 0) return expected;
    const own = present.spend / bids;
    return (paidWeight * expected + present.clicks * own) / (paidWeight + present.clicks);
  }

  /** ln clicks a week of each campaign's targets, by clicks: its CPC per bid is pooled by them too. */
  private usualClicks(
    targets: readonly TargetRow[],
    adGroups: ReadonlyMap<string, AdGroupInfo>,
  ): ReadonlyMap<string, number> {
    const sums = new Map<string, { clicks: number; logs: number }>();
    for (const row of targets) {
      const adGroup = adGroups.get(row.adGroupId);
      if (!adGroup || row.bid === null || row.present.clicks === 0) continue;
      const { clicks } = this.week(row);
      const sum = sums.get(adGroup.campaignId) ?? { clicks: 0, logs: 0 };
      sum.clicks += clicks;
      sum.logs += clicks * Math.log(clicks);
      sums.set(adGroup.campaignId, sum);
    }
    return new Map([...sums].map(([id, { clicks, logs }]) => [id, logs / clicks]));
  }
}

const median = (values: number[]): number => {
  if (values.length === 0) return 0;
  values.sort((a, b) => a - b);
  const middle = values.length >> 1;
  return values.length % 2 === 1 ? values[middle]! : (values[middle - 1]! + values[middle]!) / 2;
};

/** What enabled targets of each ad group usually show and get. */
function usualByAdGroup(targets: readonly TargetRow[]): Map<string, Usual> {
  const groups = new Map<
    string,
    { shown: number[]; weekly: number[]; bids: Micros[]; impressions: number; clicks: number }
  >();
  const all = { impressions: 0, clicks: 0 };
  for (const { enabled, adGroupId, impressions, clicks, present, bid } of targets) {
    if (!enabled) continue;
    let group = groups.get(adGroupId);
    if (!group)
      groups.set(adGroupId, (group = { shown: [], weekly: [], bids: [], impressions: 0, clicks: 0 }));
    group.shown.push(impressions);
    if (present.clicks > 0 && present.days > 0) {
      group.weekly.push((present.clicks / present.days) * 7);
      if (bid !== null) group.bids.push(bid);
    }
    for (const sum of [group, all]) {
      sum.impressions += impressions;
      sum.clicks += clicks;
    }
  }
  const ctr = all.impressions > 0 ? all.clicks / all.impressions : 0;
  const weight = ctr > 0 ? promisedWeight / ctr : 0;
  return new Map(
    [...groups].map(([id, { shown, weekly, bids, impressions, clicks }]) => [
      id,
      {
        impressions: median(shown),
        weekClicks: median(weekly),
        bid: median(bids),
        ctr: ctr > 0 ? (promisedWeight + clicks) / (weight + impressions) : 0,
      },
    ]),
  );
}
