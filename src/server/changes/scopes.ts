import type { Day } from '../../core/metrics/days.ts';
import { mixesNow } from '../account/sold.queries.ts';
import { LRUCache } from 'lru-cache';
import { totalEffect, type CountedLine, type TotalEffect } from '../../core/changes/lines.ts';
import { Goals, scopeName, type Goal } from '../../core/goals/goals.ts';
import { scopesOverGoal, type OverGoal } from '../../core/goals/over.ts';
import { addDays } from '../../core/metrics/days.ts';
import { getAccount, marginOf, settling } from '../account/account.ts';
import { productsOf } from '../account/queries.ts';
import { db } from '../db/connection.ts';
import { goalRows } from '../goals/queries.ts';
import { plainGoal } from '../goals/set-goals.ts';
import { adGroupSums, type AdGroupSums } from './scopes.queries.ts';

/** What lines do to the scopes that have a goal. */

/** Whole weeks that a week is reckoned from. */
const weeks = 4;

const kept = new LRUCache<string, Promise<AdGroupSums[] | null>>({ max: 50 });

/** Ad groups with their sums of the last settled weeks; null while no day has settled. Kept while figures stay. */
async function sumsNow(accountId: number): Promise<AdGroupSums[] | null> {
  const account = await getAccount(db(), accountId);
  const key = `${accountId}|${account.origin}|${account.data_version}`;
  let pending = kept.get(key);
  if (!pending) {
    pending = settling(db(), account).then(({ settledTo }) =>
      settledTo === null
        ? null
        : adGroupSums(db(), accountId, { from: addDays(settledTo, 1 - 7 * weeks), to: settledTo }),
    );
    kept.set(key, pending);
    pending.catch(() => kept.delete(key));
  }
  return pending;
}

/** A week of the account as it runs; null while no day has settled. */
export async function weekNow(accountId: number): Promise<{ spend: number; sales: number } | null> {
  const sums = await sumsNow(accountId);
  return sums && weekOf(sums);
}

const weekOf = (sums: readonly AdGroupSums[]) => ({
  spend: sums.reduce((sum, { spend }) => sum + spend, 0) / weeks,
  sales: sums.reduce((sum, { sales }) => sum + sales, 0) / weeks,
});

/** The goal that rules a place. */
export type GoalLookup = (campaignId: string, adGroupId: string | null) => Goal;

const lookups = new LRUCache<string, Promise<GoalLookup>>({ max: 50 });

/** Goals by place, the same as long as figures and goals stay. */
export async function goalLookup(accountId: number): Promise<GoalLookup> {
  const { today, origin, data_version, goals_version } = await getAccount(db(), accountId);
  const key = [accountId, origin, data_version, goals_version].join('|');
  let pending = lookups.get(key);
  if (!pending) {
    pending = readGoals(accountId, today);
    lookups.set(key, pending);
    pending.catch(() => lookups.delete(key));
  }
  return pending;
}

async function readGoals(accountId: number, today: Day | null): Promise<GoalLookup> {
  const [mixes, sums, rows, products] = await Promise.all([
    today === null ? undefined : mixesNow(db(), accountId, today),
    sumsNow(accountId),
    goalRows(db(), accountId),
    productsOf(db(), accountId),
  ]);
  const margins = new Map(products.map((row) => [row.sku, marginOf(row)]));
  const goals = new Goals(rows.map(plainGoal), undefined, (sku) => margins.get(sku) ?? null, mixes);
  const adGroups = new Map((sums ?? []).map((row) => [row.ad_group_id, row]));
  const skuOfCampaign = new Map((sums ?? []).map(({ campaign_id, sku }) => [campaign_id, sku]));
  return (campaignId, adGroupId) => {
    const sku = adGroups.get(adGroupId ?? '')?.sku ?? skuOfCampaign.get(campaignId) ?? null;
    return goals.of({ adGroupId, campaignId, sku });
  };
}

/** A line with its place. */
export interface PlacedEffect extends CountedLine {
  campaign_id: string;
  ad_group_id: string | null;
}

export interface NamedOverGoal extends OverGoal {
  /** Of a product its title, of a campaign its name. */
  name: string;
}

/** What lines do together, by the goal that rules their place: a target stands in one scope only. */
export function effectsByGoal(lines: readonly PlacedEffect[], goalAt: GoalLookup): GoalEffect[] {
  return byTarget(lines, ({ campaign_id, ad_group_id }) => goalAt(campaign_id, ad_group_id)).map(
    ({ goal, members }) => ({ goal, effect: totalEffect(members) }),
  );
}

/** What lines do to one scope. */
export interface GoalEffect {
  goal: Goal;
  effect: TotalEffect;
}

/** One scope and one target: under a margin the products of a scope have targets of their own. */
const targetName = (goal: Goal): string => `${scopeName(goal)}:${goal.targetAcos}`;

function byTarget<T>(all: readonly T[], goalOf: (one: T) => Goal): { goal: Goal; members: T[] }[] {
  const found = new Map<string, { goal: Goal; members: T[] }>();
  for (const one of all) {
    const goal = goalOf(one);
    const own = found.get(targetName(goal));
    if (own) own.members.push(one);
    else found.set(targetName(goal), { goal, members: [one] });
  }
  return [...found.values()];
}

/** Scopes that these effects would put over their goal. */
export async function overGoals(
  accountId: number,
  effects: readonly GoalEffect[],
  campaignName: (id: string) => string,
): Promise<NamedOverGoal[]> {
  const sums = await sumsNow(accountId);
  if (!sums || effects.length === 0) return [];
  const goalAt = await goalLookup(accountId);
  const inside = new Map(
    byTarget(sums, (row) => goalAt(row.campaign_id, row.ad_group_id)).map(({ goal, members }) => [
      targetName(goal),
      members,
    ]),
  );
  const found = scopesOverGoal(
    effects.map(({ goal, effect }) => ({
      goal,
      week: weekOf(inside.get(targetName(goal)) ?? []),
      change: effect,
    })),
  );
  if (found.length === 0) return [];
  const titles = new Map((await productsOf(db(), accountId)).map(({ sku, title }) => [sku, title]));
  return found.map((one) => ({
    ...one,
    name:
      one.scope === 'product'
        ? (titles.get(one.key) ?? one.key)
        : one.scope === 'campaign'
          ? campaignName(one.key)
          : '',
  }));
}
