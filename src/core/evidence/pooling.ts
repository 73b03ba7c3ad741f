import type { Micros } from '../metrics/money.ts';
import { priceSold, type Mixes } from '../account/mix.ts';
import type { AdGroupInfo, Evidence, ProductInfo } from '../account/rows.ts';
import { hear, usualLevels, type Level as HeardLevel } from './hierarchy.ts';
import { type Prior } from './prior.ts';
import { usualValueWeight, valuePerOrder, type SiblingValue } from './value.ts';
import { addSibling, addSiblings, noSiblings, type Siblings } from './siblings.ts';

/** One ad group, campaign, product or the account: what its rows were counted to have. */
interface Level extends HeardLevel {
  members: Level[];
  orders: number;
  sales: number;
}

export type LevelName = 'account' | 'product' | 'campaign' | 'ad group';

/** What one level says, for the working: where mean and strength come from. */
export interface LevelSays {
  level: LevelName;
  /** (weight x mean above + sold) / (weight + telling). */
  mu: number;
  /** How much the mean above counts, in clicks: how alike its like are; 0 at the top. */
  weight: number;
  /** Clicks and orders that tell of this mean itself (`hear`). */
  telling: number;
  sold: number;
}

/** What the levels above one ad group say about its rows. */
export interface Pooled {
  prior: Prior;
  /** From the account down to the ad group. */
  levels: LevelSays[];
  /** Value per order of the ad group. */
  value: SiblingValue;
}

/** What an account taught about rows that look alike. */
export interface RowModel {
  /** How far rows drift from their past (`Prior.drift`). */
  drift: number;
  /** For how many orders of a row its siblings' value counts (`learnValueWeight`). */
  valueWeight: number;
}

const level = (): Level => ({ siblings: noSiblings(), orders: 0, sales: 0, members: [] });

/** The level under a key, below the one above it. */
const get = (map: Map<string, Level>, key: string, above: Level): Level => {
  let known = map.get(key);
  if (!known) {
    map.set(key, (known = level()));
    above.members.push(known);
  }
  return known;
};

/** Sums for the levels above: the rows themselves are tallied in their ad group only. */
function addSums(into: Level, { siblings, orders, sales }: Level): void {
  into.siblings.n += siblings.n;
  into.siblings.y += siblings.y;
  into.orders += orders;
  into.sales += sales;
}

/**
 * Pools rows upward - ad group, campaign, product, account - and hands the priors down again, each level shrunk to
 * the one above (domain, section 5). Rows are counted in their ad group only; the levels above are summed once, when
 * the first prior is asked for.
 */
export class Pool {
  private readonly adGroups = new Map<string, { info: AdGroupInfo; level: Level }>();
  private readonly ready = new Map<string, Pooled>();
  private above: {
    account: Level;
    products: Map<string, Level>;
    campaigns: Map<string, Level>;
    heard: ReturnType<typeof hear>;
  } | null = null;

  constructor(
    private readonly prices: ReadonlyMap<string, ProductInfo>,
    private readonly rows: RowModel = { drift: 0, valueWeight: usualValueWeight },
    /** What ad groups of several products really sell. */
    private readonly mixes?: Mixes,
  ) {}

  add(
    adGroup: AdGroupInfo,
    row: Pick<Evidence, 'n' | 'y' | 'seenClicks' | 'seenOrders' | 'seenSales'>,
  ): void {
    const one = this.levelOf(adGroup);
    addSibling(one.siblings, row.n, row.y, row.seenClicks, row.seenOrders);
    one.orders += row.seenOrders;
    one.sales += row.seenSales;
  }

  /** Adds the terms of an ad group that were summed before. */
  addQuiet(adGroup: AdGroupInfo, quiet: QuietTerms): void {
    const one = this.levelOf(adGroup);
    addSiblings(one.siblings, quiet.siblings);
    one.orders += quiet.orders;
    one.sales += quiet.sales;
  }

  private levelOf(info: AdGroupInfo): Level {
    let known = this.adGroups.get(info.adGroupId);
    if (!known) this.adGroups.set(info.adGroupId, (known = { info, level: level() }));
    return known.level;
  }

  private summed() {
    if (this.above) return this.above;
    const made = {
      account: level(),
      products: new Map<string, Level>(),
      campaigns: new Map<string, Level>(),
    };
    for (const { info, level: one } of this.adGroups.values()) {
      const product = get(made.products, info.sku ?? '', made.account);
      const campaign = get(made.campaigns, campaignKey(info), product);
      for (const above of [campaign, product, made.account]) addSums(above, one);
      campaign.members.push(one);
    }
    return (this.above = { ...made, heard: hear(made.account) });
  }

  of(adGroup: AdGroupInfo): Pooled {
    const known = this.ready.get(adGroup.adGroupId);
    if (known) return known;
    const { drift, valueWeight } = this.rows;
    const { account, products, campaigns, heard } = this.summed();
    const chain: [LevelName, Level | undefined][] = [
      ['account', account],
      ['product', products.get(adGroup.sku ?? '')],
      ['campaign', campaigns.get(campaignKey(adGroup))],
      ['ad group', this.adGroups.get(adGroup.adGroupId)?.level],
    ];
    const accountValue = account.orders > 0 ? account.sales / account.orders : 0;
    let value = priceSold(adGroup, this.prices, this.mixes) || accountValue;
    let prior: Prior | null = null;
    const levels: LevelSays[] = [];
    for (const [depth, [name, one]] of chain.entries()) {
      if (!one) {
        // Nothing was counted here: it is like the level above, and may differ from it as its like do.
        prior = { ...prior!, doubt: prior!.doubt + 1 / (heard.likeness.levels[depth - 1] ?? usualLevels) };
        continue;
      }
      const { mu, doubt, telling, sold, weight } = heard.means.get(one)!;
      prior = { mu, strength: heard.likeness.rows / mu, doubt };
      levels.push({ level: name, mu, weight, telling, sold });
      if (name !== 'account')
        value = valuePerOrder({ mean: value, weight: valueWeight }, one.sales, one.orders);
    }
    const pooled = { prior: { ...prior!, drift }, levels, value: { mean: value, weight: valueWeight } };
    this.ready.set(adGroup.adGroupId, pooled);
    return pooled;
  }
}

/** A campaign that advertises several products speaks for each of them by itself: its level hangs below one product. */
const campaignKey = ({ campaignId, sku }: AdGroupInfo): string => `${campaignId}\t${sku ?? ''}`;

/** What the terms of an ad group that are too quiet for a finding add up to: siblings all the same. */
export interface QuietTerms {
  /** How many there are. */
  terms: number;
  siblings: Siblings;
  orders: number;
  sales: Micros;
}
