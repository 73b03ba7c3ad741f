import {
  addMoments,
  addSibling,
  noMoments,
  priorOf,
  valuePerOrder,
  type Moments,
  type Prior,
} from '../evidence/prior.ts';
import type { AdGroupInfo, Evidence, ProductInfo, QuietTerms, Working } from './types.ts';

interface Level {
  moments: Moments;
  orders: number;
  sales: number;
}

/** What the levels above one ad group say about its rows. */
export interface Pooled {
  prior: Prior;
  /** The lowest level that had enough siblings to speak for itself. */
  level: Working['priorLevel'];
  /** Value per order of the ad group, micros: the parent of its rows' values. */
  value: number;
}

const level = (): Level => ({ moments: noMoments(), orders: 0, sales: 0 });

const get = (map: Map<string, Level>, key: string): Level => {
  let known = map.get(key);
  if (!known) map.set(key, (known = level()));
  return known;
};

/**
 * Pools rows upward - ad group, campaign, product, account - and hands the priors down again, each level shrunk to
 * the one above (guide, section 5). One pass over the rows; any number of them.
 */
export class Pool {
  private readonly account = level();
  private readonly products = new Map<string, Level>();
  private readonly campaigns = new Map<string, Level>();
  private readonly adGroups = new Map<string, Level>();
  private readonly ready = new Map<string, Pooled>();

  constructor(private readonly prices: ReadonlyMap<string, ProductInfo>) {}

  add(
    adGroup: AdGroupInfo,
    row: Pick<Evidence, 'n' | 'y' | 'seenClicks' | 'seenOrders' | 'seenSales'>,
  ): void {
    for (const one of this.levels(adGroup)) {
      addSibling(one.moments, row.n, row.y, row.seenClicks, row.seenOrders);
      one.orders += row.seenOrders;
      one.sales += row.seenSales;
    }
  }

  /** Adds the terms of an ad group that were summed before. */
  addQuiet(adGroup: AdGroupInfo, quiet: QuietTerms): void {
    for (const one of this.levels(adGroup)) {
      addMoments(one.moments, quiet.moments);
      one.orders += quiet.orders;
      one.sales += quiet.sales;
    }
  }

  private levels(adGroup: AdGroupInfo): Level[] {
    return [
      this.account,
      get(this.products, adGroup.sku ?? ''),
      get(this.campaigns, adGroup.campaignId),
      get(this.adGroups, adGroup.adGroupId),
    ];
  }

  of(adGroup: AdGroupInfo): Pooled {
    const known = this.ready.get(adGroup.adGroupId);
    if (known) return known;
    const chain = [
      ['product', get(this.products, adGroup.sku ?? '')],
      ['campaign', get(this.campaigns, adGroup.campaignId)],
      ['ad group', get(this.adGroups, adGroup.adGroupId)],
    ] as const;
    let prior = priorOf(this.account.moments, null);
    let speaks: Working['priorLevel'] = 'account';
    const accountValue = this.account.orders > 0 ? this.account.sales / this.account.orders : 0;
    let value = (adGroup.sku === null ? undefined : this.prices.get(adGroup.sku)?.price) || accountValue;
    for (const [name, { moments, orders, sales }] of chain) {
      const next = priorOf(moments, prior);
      if (next.mu !== prior.mu) speaks = name;
      prior = next;
      value = valuePerOrder(value, sales, orders);
    }
    const pooled = { prior, level: speaks, value };
    this.ready.set(adGroup.adGroupId, pooled);
    return pooled;
  }
}
