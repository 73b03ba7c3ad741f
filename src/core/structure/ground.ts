import type { AdGroupInfo, TargetRow } from '../account/rows.ts';
import type { NegativeType, Objects } from '../account/store.ts';
import type { Guards } from '../bids/guards.ts';
import { probabilityOver, revenue, verdictOf, type Belief, type Verdict } from '../evidence/verdict.ts';
import type { Season } from '../metrics/season.ts';
import type { Micros } from '../metrics/money.ts';
import { beliefOf, bidGround, goalsIn } from '../round/targets.ts';
import type { TargetsInput } from '../round/types.ts';

/** A target that runs, as structure is judged by it. Money in micros. */
export interface StructureTarget {
  row: TargetRow;
  belief: Belief;
  /** Chance that its ACOS lies over its goal; null without a CPC. */
  over: number | null;
  verdict: Verdict;
  /** Of a week at its present bid, as the campaign runs. */
  clicks: number;
  spend: Micros;
  /** Expected sales of a click, and what it costs. */
  earns: Micros;
  cpc: Micros;
  targetAcos: number;
  theta: number;
}

export interface StructureAdGroup {
  adGroupId: string;
  name: string;
  /** The first that it advertises, and all. */
  sku: string | null;
  skus: readonly string[];
  defaultBid: Micros;
  /** Click-weighted mean of (1 + placement modifier), times that of the schedule. */
  modifier: number;
  /** By which it chooses its products, as it is kept (account/rule.ts); null where they are listed. */
  rule: string | null;
  /** Of several products: what an order of each leaves before ads, micros, null where unknown, its price, and its share of sales. */
  sells: { sku: string; share: number; profit: Micros | null; price: Micros | null }[];
  targets: StructureTarget[];
  /** What its bids keep to. */
  guards: Guards;
  negatives: { matchType: NegativeType; expression: string }[];
}

/** A campaign that runs. */
export interface StructureCampaign {
  campaignId: string;
  name: string;
  kind: 'automatic' | 'manual';
  strategy: string;
  modifiers: Record<string, number>;
  /** As the marketplace writes it (hours/schedule.ts); null for none. */
  schedule: string | null;
  /** Null where its budget is of another kind. */
  dailyBudget: Micros | null;
  endDate: string | null;
  /** For which share of the time it could show: below 1 its budget ran out. */
  shown: number;
  adGroups: StructureAdGroup[];
}

export interface StructureGround {
  today: string;
  /** Settled days of the window. */
  days: number;
  campaigns: StructureCampaign[];
  /** Names of campaigns that are taken, in lower case. */
  taken: ReadonlySet<string>;
  minimumBudget: Micros;
  /** How the account calls its products in names, by SKU. */
  codes: ReadonlyMap<string, string>;
  seasons: ReadonlyMap<string, Season>;
  /** Products without stock. */
  soldOut: ReadonlySet<string>;
}

/** Running campaigns with what they aim with, each target believed as everywhere. `advertised`: SKUs by ad group. */
export function structureCampaigns(
  objects: Objects,
  input: TargetsInput,
  advertised: ReadonlyMap<string, readonly string[]>,
): StructureCampaign[] {
  const goals = goalsIn(input);
  const { pool, usuals } = bidGround(input);
  const profitOf = (sku: string): Micros | null => {
    const product = input.products.get(sku);
    return product?.margin == null ? null : Math.round(product.margin * product.price);
  };
  const modifiers = objects.campaigns.map((): Record<string, number> => ({}));
  for (const { campaign, placement, modifier } of objects.placements)
    if (modifier) modifiers[campaign]![placement] = modifier;
  const defaults = new Map(objects.adGroups.map(({ id, fields }) => [id, Number(fields.default_bid ?? 0)]));
  const rules = new Map(
    objects.adGroups.flatMap(({ id, fields }) => (fields.rule ? [[id, String(fields.rule)] as const] : [])),
  );
  const about = new Map(objects.campaigns.map((campaign, place) => [campaign.id, { campaign, place }]));
  const found = new Map<string, StructureCampaign>();
  const groups = new Map<string, StructureAdGroup>();

  const campaignOf = ({ campaignId, campaign: name, automatic }: AdGroupInfo): StructureCampaign => {
    let one = found.get(campaignId);
    if (one) return one;
    const { campaign, place } = about.get(campaignId)!;
    const daily = Number(campaign.fields.daily_budget ?? 0);
    one = {
      campaignId,
      name,
      kind: automatic ? 'automatic' : 'manual',
      strategy: campaign.strategy ?? 'fixed',
      modifiers: modifiers[place]!,
      schedule: String(campaign.fields.schedule ?? '') || null,
      dailyBudget: daily > 0 ? daily : null,
      endDate: campaign.endDate,
      shown: input.budgets?.shown.get(campaignId) ?? 1,
      adGroups: [],
    };
    found.set(campaignId, one);
    return one;
  };
  for (const adGroup of input.adGroups.values()) {
    if (!adGroup.enabled) continue;
    const { adGroupId, name, sku } = adGroup;
    const group: StructureAdGroup = {
      adGroupId,
      name,
      sku,
      skus: advertised.get(adGroupId) ?? [],
      defaultBid: defaults.get(adGroupId) ?? 0,
      modifier: adGroup.modifier,
      sells: (input.mixes?.get(adGroupId) ?? []).map((part) => ({
        ...part,
        profit: profitOf(part.sku),
        price: input.products.get(part.sku)?.price ?? null,
      })),
      rule: rules.get(adGroupId) ?? null,
      targets: [],
      guards: goals.guardsOf(goals.of(adGroup)),
      negatives: [],
    };
    groups.set(adGroupId, group);
    campaignOf(adGroup).adGroups.push(group);
  }
  for (const { campaignId, adGroupId, matchType, expression } of input.negatives) {
    const places = adGroupId === null ? (found.get(campaignId)?.adGroups ?? []) : [groups.get(adGroupId)];
    for (const place of places) place?.negatives.push({ matchType, expression });
  }
  for (const row of input.targets) {
    const group = groups.get(row.adGroupId);
    if (!group || !row.enabled) continue;
    const adGroup = input.adGroups.get(row.adGroupId)!;
    const rho = usuals.rho(adGroup.campaignId);
    const belief = beliefOf(row, pool.of(adGroup), adGroup.modifier, rho);
    const { targetAcos, theta } = goals.of(adGroup);
    const over = probabilityOver(belief, targetAcos);
    const { clicks } = usuals.week(row);
    const cpc = belief.cpc ?? rho * (row.bid ?? group.defaultBid) * adGroup.modifier;
    group.targets.push({
      row,
      belief,
      over,
      verdict: verdictOf(over),
      clicks: row.present.clicks > 0 ? clicks : 0,
      spend: row.present.clicks > 0 ? clicks * cpc : 0,
      earns: revenue(belief),
      cpc,
      targetAcos,
      theta,
    });
  }
  return [...found.values()];
}
