import type { AdGroupInfo, TargetRow } from '../account/rows.ts';
import type { NegativeType, Objects } from '../account/store.ts';
import type { Guards } from '../bids/guards.ts';
import { revenue, type Belief } from '../evidence/verdict.ts';
import type { Season } from '../metrics/season.ts';
import type { Micros } from '../metrics/money.ts';
import { beliefOf, bidGround, goalsIn } from '../round/targets.ts';
import type { TargetsInput } from '../round/types.ts';
import type { Pooled } from '../evidence/pooling.ts';

/** A target that runs, as structure is judged by it. Money in micros. */
export interface StructureTarget {
  readonly row: TargetRow;
  readonly belief: Belief;
  /** Of a week at its present bid, as the campaign runs. */
  readonly clicks: number;
  readonly spend: Micros;
  /** Expected sales of an order and of a click, and what a click costs. */
  readonly value: Micros;
  readonly earns: Micros;
  readonly cpc: Micros;
  readonly targetAcos: number;
  readonly theta: number;
}

/** What the targets of an ad group have in common. */
interface Shared {
  pooled: Pooled;
  modifier: number;
  rho: number;
  targetAcos: number;
  theta: number;
}

/** Figures of targets, a column each. */
interface Figures {
  clicks: Float64Array;
  value: Float64Array;
  earns: Float64Array;
  cpc: Float64Array;
}

const figuresOf = (count: number): Figures => ({
  clicks: new Float64Array(count),
  value: new Float64Array(count),
  earns: new Float64Array(count),
  cpc: new Float64Array(count),
});

/** A place in the columns: of a large account most of the work was waiting for memory. */
class TargetAt implements StructureTarget {
  constructor(
    readonly row: TargetRow,
    private readonly at: number,
    private readonly figures: Figures,
    private readonly shared: Shared,
  ) {}

  get belief(): Belief {
    const { pooled, modifier, rho } = this.shared;
    return beliefOf(this.row, pooled, modifier, rho);
  }
  get clicks(): number {
    return this.figures.clicks[this.at]!;
  }
  get spend(): Micros {
    return this.clicks * this.cpc;
  }
  get value(): Micros {
    return this.figures.value[this.at]!;
  }
  get earns(): Micros {
    return this.figures.earns[this.at]!;
  }
  get cpc(): Micros {
    return this.figures.cpc[this.at]!;
  }
  get targetAcos(): number {
    return this.shared.targetAcos;
  }
  get theta(): number {
    return this.shared.theta;
  }
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
  const groups = new Map<string, { group: StructureAdGroup; shared: Shared }>();

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
    const { adGroupId, name, sku, modifier, campaignId } = adGroup;
    const goal = goals.of(adGroup);
    const group: StructureAdGroup = {
      adGroupId,
      name,
      sku,
      skus: advertised.get(adGroupId) ?? [],
      defaultBid: defaults.get(adGroupId) ?? 0,
      modifier,
      sells: (input.mixes?.get(adGroupId) ?? []).map((part) => ({
        ...part,
        profit: profitOf(part.sku),
        price: input.products.get(part.sku)?.price ?? null,
      })),
      rule: rules.get(adGroupId) ?? null,
      targets: [],
      guards: goals.guardsOf(goal),
      negatives: [],
    };
    const shared: Shared = {
      pooled: pool.of(adGroup),
      modifier,
      rho: usuals.rho(campaignId),
      targetAcos: goal.targetAcos,
      theta: goal.theta,
    };
    groups.set(adGroupId, { group, shared });
    campaignOf(adGroup).adGroups.push(group);
  }
  for (const { campaignId, adGroupId, matchType, expression } of input.negatives) {
    const places =
      adGroupId === null ? (found.get(campaignId)?.adGroups ?? []) : [groups.get(adGroupId)?.group];
    for (const place of places) place?.negatives.push({ matchType, expression });
  }
  const figures = figuresOf(input.targets.length);
  input.targets.forEach((row, at) => {
    const known = groups.get(row.adGroupId);
    if (!known || !row.enabled) return;
    const { group, shared } = known;
    const { pooled, modifier, rho } = shared;
    const belief = beliefOf(row, pooled, modifier, rho);
    figures.clicks[at] = row.present.clicks > 0 ? usuals.week(row).clicks : 0;
    figures.value[at] = belief.value;
    figures.earns[at] = revenue(belief);
    figures.cpc[at] = belief.cpc ?? rho * (row.bid ?? group.defaultBid) * modifier;
    group.targets.push(new TargetAt(row, at, figures, shared));
  });
  return [...found.values()];
}
