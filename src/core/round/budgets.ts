import { clamp } from '../metrics/clamp.ts';
import type { AdGroupInfo, TargetRow } from '../account/rows.ts';
import type { Micros } from '../metrics/money.ts';

/** What budgets leave to bids (domain, section 9): a raise that a budget cannot pay for only makes clicks dearer. */

/** A daily budget, and the campaigns that spend from it: one, or those of a budget group. Money in micros. */
export interface Budget {
  daily: Micros;
  campaignIds: readonly string[];
}

/** Budgets in force, and for which share of the time each campaign could show; not named: all of it. */
export interface Budgets {
  all: readonly Budget[];
  shown: ReadonlyMap<string, number>;
}

/** A target that spends from a budget: its spend of a full week, and its bid at theta 1 over its present one. */
export interface Spender {
  spend: Micros;
  /** RPC / M over the bid. */
  perTheta: number;
  /** Elasticity of its spend: of clicks and of CPC together. */
  elasticity: number;
}

/** How far one round may move a bid; what is asked beyond it comes in later rounds, with figures of its own. */
const reach = { low: 1 / 3, high: 2 };
const halvings = 30;

/** Spend of a week with all bids at theta. */
const spendAt = (theta: number, spenders: readonly Spender[]): Micros =>
  spenders.reduce(
    (sum, { spend, perTheta, elasticity }) =>
      sum + spend * clamp(theta * perTheta, reach.low, reach.high) ** elasticity,
    0,
  );

/**
 * The highest theta, `most` at most, at which what spends from a budget stays within it for a week: by halving, since
 * spend never falls with theta. 0 where even the lowest bids within reach spend more.
 *
 * @example thetaWithin(8e6, [{ spend: 4e6, perTheta: 2, elasticity: 1 }], 0.9) // 0.9
 */
export function thetaWithin(week: Micros, spenders: readonly Spender[], most: number): number {
  if (spendAt(most, spenders) <= week) return most;
  let [low, high] = [0, most];
  for (let step = 0; step < halvings; step++) {
    const middle = (low + high) / 2;
    if (spendAt(middle, spenders) <= week) low = middle;
    else high = middle;
  }
  return low;
}

/** What raises within reach may at most make of a week's spend: twice the bid at an elasticity of 2. */
const mostGrowth = 4;
/** A campaign that showed for less than this share of the time tells little of a full day. */
const leastShown = 0.1;

/**
 * The theta that budgets leave to campaigns, by id; campaigns whose budgets cannot bind are left out. Spend of a full
 * week is what was spent over the share of the time in which the campaign could show.
 *
 * @param spenderOf A target as it spends from its budget at present; null where it does not.
 */
export function budgetThetas(
  { all, shown }: Budgets,
  targets: readonly TargetRow[],
  adGroups: ReadonlyMap<string, AdGroupInfo>,
  spenderOf: (row: TargetRow, adGroup: AdGroupInfo) => { spender: Spender; theta: number } | null,
): Map<string, number> {
  const full = (campaignId: string) => 1 / Math.max(leastShown, shown.get(campaignId) ?? 1);
  const weeks = new Map<string, Micros>();
  const rows = new Map<string, TargetRow[]>();
  for (const row of targets) {
    const adGroup = adGroups.get(row.adGroupId);
    if (!adGroup || !row.enabled || row.bid === null || row.present.days <= 0) continue;
    const { campaignId } = adGroup;
    const week = (row.present.spend / row.present.days) * 7 * full(campaignId);
    weeks.set(campaignId, (weeks.get(campaignId) ?? 0) + week);
    const known = rows.get(campaignId);
    if (known) known.push(row);
    else rows.set(campaignId, [row]);
  }
  const thetas = new Map<string, number>();
  for (const { daily, campaignIds } of all) {
    const spent = campaignIds.reduce((sum, id) => sum + (weeks.get(id) ?? 0), 0);
    if (spent * mostGrowth <= 7 * daily) continue;
    const spenders: Spender[] = [];
    let most = 0;
    for (const id of campaignIds) {
      for (const row of rows.get(id) ?? []) {
        const found = spenderOf(row, adGroups.get(row.adGroupId)!);
        if (!found) continue;
        most = Math.max(most, found.theta);
        spenders.push({ ...found.spender, spend: found.spender.spend * full(id) });
      }
    }
    const theta = thetaWithin(7 * daily, spenders, most);
    if (theta >= most) continue;
    for (const id of campaignIds) thetas.set(id, Math.min(theta, thetas.get(id) ?? Infinity));
  }
  return thetas;
}
