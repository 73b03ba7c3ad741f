import type { AdGroupInfo, TargetRow } from '../account/rows.ts';
import { paidPerBidByCampaign, usualPaidPerBid } from '../evidence/present-cpc.ts';
import { clamp } from '../metrics/clamp.ts';

/** What targets of one ad group usually show and get. */
export interface Usual {
  /** Median impressions of the window. */
  impressions: number;
  /** Median clicks a week at their present bids, of those with a click. */
  weekClicks: number;
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

/** What is believed of how paid per bid falls with ln clicks a week, before an account tells it. */
const usualFall = { mean: 0.05, spread: 0.005 };
/** How far targets of like clicks differ in paid per bid, and prices of clicks around their mean. */
const paidScatter = { targets: 0.1, clicks: 0.25 };
/** Where nothing or more than the bid would be paid, no auction is described. */
const paidBounds = [0.1, 0.95] as const;

/**
 * What targets usually show, get and pay: what a target is taken for where its own clicks say little (domain, section
 * 11). Whoever is shown rarely at a bid is mostly outbid and pays nearly all of the bid when not; whoever is shown
 * often pays a smaller part of it. So paid per bid falls with clicks, by how much is learned from the account.
 */
export class Usuals {
  private readonly groups: Map<string, Usual>;
  private readonly rhos: Map<string, number>;
  /** By campaign: ln clicks a week at which its paid per bid holds. */
  private readonly at = new Map<string, number>();
  private readonly fall: number;

  constructor(
    private readonly targets: readonly TargetRow[],
    adGroups: ReadonlyMap<string, AdGroupInfo>,
    /** Days of the window that impressions were counted in. */
    private readonly days: number,
  ) {
    this.groups = usualByAdGroup(targets);
    this.rhos = paidPerBidByCampaign(targets, adGroups);
    this.fall = this.learnFall(adGroups);
  }

  of(adGroupId: string): Usual {
    return this.groups.get(adGroupId) ?? { impressions: 0, weekClicks: 0, ctr: 0 };
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
    return clamp(rho - this.fall * (Math.log(clicks) - at), ...paidBounds);
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

  private learnFall(adGroups: ReadonlyMap<string, AdGroupInfo>): number {
    const rows = this.targets.flatMap((row) => {
      const adGroup = adGroups.get(row.adGroupId);
      const { present, bid, enabled } = row;
      if (!adGroup || !enabled || bid === null || bid <= 0 || present.priced <= 0) return [];
      const { clicks } = this.week(row);
      const paid = present.spend / (present.priced * bid * adGroup.modifier);
      return [{ campaignId: adGroup.campaignId, clicks, told: present.clicks, paid }];
    });
    const sums = new Map<string, { clicks: number; logs: number }>();
    for (const { campaignId, clicks } of rows) {
      const sum = sums.get(campaignId) ?? { clicks: 0, logs: 0 };
      sums.set(campaignId, { clicks: sum.clicks + clicks, logs: sum.logs + clicks * Math.log(clicks) });
    }
    for (const [campaignId, { clicks, logs }] of sums) this.at.set(campaignId, logs / clicks);
    let weights = 1 / usualFall.spread ** 2;
    let sum = weights * usualFall.mean;
    for (const { campaignId, clicks, told, paid } of rows) {
      const x = this.at.get(campaignId)! - Math.log(clicks);
      const weight = 1 / (paidScatter.targets ** 2 + paidScatter.clicks ** 2 / told);
      weights += weight * x * x;
      sum += weight * x * (paid - this.rho(campaignId));
    }
    return Math.max(0, sum / weights);
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
    { shown: number[]; weekly: number[]; impressions: number; clicks: number }
  >();
  const all = { impressions: 0, clicks: 0 };
  for (const { enabled, adGroupId, impressions, clicks, present } of targets) {
    if (!enabled) continue;
    let group = groups.get(adGroupId);
    if (!group) groups.set(adGroupId, (group = { shown: [], weekly: [], impressions: 0, clicks: 0 }));
    group.shown.push(impressions);
    if (present.clicks > 0 && present.days > 0) group.weekly.push((present.clicks / present.days) * 7);
    for (const sum of [group, all]) {
      sum.impressions += impressions;
      sum.clicks += clicks;
    }
  }
  const ctr = all.impressions > 0 ? all.clicks / all.impressions : 0;
  const weight = ctr > 0 ? promisedWeight / ctr : 0;
  return new Map(
    [...groups].map(([id, { shown, weekly, impressions, clicks }]) => [
      id,
      {
        impressions: median(shown),
        weekClicks: median(weekly),
        ctr: ctr > 0 ? (promisedWeight + clicks) / (weight + impressions) : 0,
      },
    ]),
  );
}
