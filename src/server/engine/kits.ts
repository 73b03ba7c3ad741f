import { adGroupInfos, productInfos } from '../../core/account/rows.ts';
import { runningOn } from '../../core/account/running.ts';
import type { EvidenceColumns, Objects, TargetObject } from '../../core/account/store.ts';
import { Pool } from '../../core/evidence/pooling.ts';
import { posterior } from '../../core/evidence/prior.ts';
import { usualPaidPerBid } from '../../core/evidence/present-cpc.ts';
import { Goals } from '../../core/goals/goals.ts';
import type { KindEvidence } from '../../core/kits/bids.ts';
import type { ProductGrounds } from '../../core/kits/kit.ts';
import { codeHabits } from '../../core/kits/names.ts';
import { partKinds, type PartKind } from '../../core/kits/recipe.ts';
import { windowEnding } from '../../core/metrics/days.ts';
import { evidenceDays } from '../../core/metrics/weights.ts';
import type { Micros } from '../../core/metrics/money.ts';
import type { LoadedAccount } from '../memory/load.ts';
import type { Edition } from './edition.ts';

/** What the account in memory says about products that get a kit. */
export type AccountGrounds = Omit<ProductGrounds, 'itemCode' | 'page'>;

interface Accounts {
  load: (
    edition: Pick<Edition, 'accountId' | 'figures'>,
    withTerms?: boolean,
  ) => Promise<LoadedAccount | null>;
}

const kindOf = ({ kind, matchType }: TargetObject): PartKind | null => {
  if (kind === 'keyword') return (matchType as 'broad' | 'phrase' | 'exact' | null) ?? null;
  if (kind === 'item') return 'items';
  return kind === 'automatic' || kind === 'category' ? kind : null;
};

/** Where an account has no click of any kind: one order in twenty clicks, hardly believed. */
const guess = { shape: 0.5, rate: 10 };
const mostProven = 500;

/** Evidence by kind of target: what the pool of a kind says of a product's next ad group. */
class KindPools {
  private readonly pools = new Map<PartKind, Pool>();
  private readonly clicks = new Map<string, number>();
  private readonly paid = new Map<PartKind, { spend: number; bid: number }>();
  private readonly skus: (string | null)[];

  constructor(
    objects: Objects,
    infos: ReturnType<typeof adGroupInfos>,
    { n, y, seen }: EvidenceColumns,
    edition: Edition,
  ) {
    const prices = productInfos(objects);
    this.skus = objects.adGroups.map(({ sku }) => sku);
    for (const kind of partKinds) this.pools.set(kind, new Pool(prices, edition.model));
    objects.targets.forEach((target, row) => {
      const kind = kindOf(target);
      const seenClicks = seen.clicks[row]!;
      if (kind === null || seenClicks === 0) return;
      const sums = {
        n: n[row]!,
        y: y[row]!,
        seenClicks,
        seenOrders: seen.orders[row]!,
        seenSales: seen.sales[row]!,
      };
      this.pools.get(kind)!.add(infos[target.adGroup]!, sums);
      this.count(kind, null, seenClicks);
      const sku = this.skus[target.adGroup];
      if (sku) this.count(kind, sku, seenClicks);
      const paid = this.paid.get(kind) ?? { spend: 0, bid: 0 };
      if (target.bid !== null) {
        paid.spend += seen.spend[row]!;
        paid.bid += seenClicks * target.bid;
      }
      this.paid.set(kind, paid);
    });
  }

  private count(kind: PartKind, sku: string | null, clicks: number): void {
    const key = `${kind}\t${sku ?? ''}`;
    this.clicks.set(key, (this.clicks.get(key) ?? 0) + clicks);
  }

  /** The kind itself, or the one most alike that has clicks at all. */
  private heardOf(kind: PartKind): PartKind | null {
    const order: PartKind[] = [kind, 'phrase', 'exact', 'broad', 'automatic', 'items', 'category'];
    return order.find((one) => this.clicks.has(`${one}\t`)) ?? null;
  }

  of(kind: PartKind, sku: string, price: Micros): KindEvidence {
    const heard = this.heardOf(kind);
    if (heard === null) return { rate: guess, value: price, paidPerBid: usualPaidPerBid, clicks: 0 };
    const info = { adGroupId: '', campaignId: '', name: '', campaign: '', automatic: false, sku };
    const { prior, value } = this.pools
      .get(heard)!
      .of({ ...info, enabled: true, archived: false, modifier: 1 });
    const paid = this.paid.get(heard);
    return {
      rate: posterior(prior, 0, 0),
      value: value.mean,
      paidPerBid: paid && paid.bid > 0 ? paid.spend / paid.bid : usualPaidPerBid,
      clicks: heard === kind ? (this.clicks.get(`${kind}\t${sku}`) ?? 0) : 0,
    };
  }
}

/** Says what is known of products before a kit is made. */
export class KitsEngine {
  constructor(private readonly accounts: Accounts) {}

  /** Null while nothing was loaded. */
  async grounds(edition: Edition, skus: readonly string[]): Promise<AccountGrounds[] | null> {
    const account = await this.accounts.load(edition, true);
    if (!account) return null;
    const { objects, today, settledTo } = account;
    const infos = adGroupInfos(objects, runningOn(objects, today));
    const window = windowEnding(settledTo ?? today, evidenceDays);
    const evidence = await account.evidenceFor(window, 'pairs');
    const pools = new KindPools(objects, infos, evidence.targets, edition);
    const goals = new Goals(edition.goals);
    const habits = habitsOf(objects);
    const proven = provenOf(account, evidence.pairs!, new Set(skus));
    return skus.flatMap((sku) => {
      const product = objects.products.find((one) => one.sku === sku);
      if (!product) return [];
      const goal = goals.of({ campaignId: '', sku });
      return [
        {
          sku,
          title: product.title,
          code: habits.get(sku) ?? sku,
          stock: product.stock,
          theta: goal.theta,
          floor: goal.bidFloor,
          ceiling: goal.bidCeiling,
          evidence: Object.fromEntries(
            partKinds.map((kind) => [kind, pools.of(kind, sku, product.price)]),
          ) as ProductGrounds['evidence'],
          served: servedOf(objects, sku),
          proven: (proven.get(sku) ?? []).slice(0, mostProven),
        },
      ];
    });
  }

  /** How the account calls its products in names, by SKU. */
  async codes(edition: Edition): Promise<[sku: string, code: string][] | null> {
    const account = await this.accounts.load(edition);
    return account && [...habitsOf(account.objects)];
  }
}

function habitsOf({ campaigns, adGroups }: Objects): Map<string, string> {
  const skus = campaigns.map((): Set<string> => new Set());
  for (const { campaign, sku } of adGroups) if (sku !== null) skus[campaign]!.add(sku);
  return codeHabits(
    campaigns.flatMap(({ name, status }, at) =>
      status === 'archived' ? [] : [{ name, skus: [...skus[at]!] }],
    ),
  );
}

function servedOf({ targets, adGroups, campaigns }: Objects, sku: string): ProductGrounds['served'] {
  return targets.flatMap(({ kind, matchType, expression, status, adGroup }) => {
    const place = adGroups[adGroup]!;
    const gone = [status, place.status, campaigns[place.campaign]!.status].includes('archived');
    if (kind !== 'keyword' || matchType === null || place.sku !== sku || gone) return [];
    return [{ text: expression, matchType, adGroup: place.name }];
  });
}

/** Terms that sold, by product: one text once, whichever targets caught it. */
function provenOf(
  { objects, pairs }: LoadedAccount,
  { seen }: EvidenceColumns,
  skus: ReadonlySet<string>,
): Map<string, ProductGrounds['proven']> {
  const sums = new Map<string, Map<string, ProductGrounds['proven'][number]>>();
  const { target, term, texts } = pairs!;
  for (let row = 0; row < target.length; row++) {
    if (seen.orders[row] === 0) continue;
    const { sku } = objects.adGroups[objects.targets[target[row]!]!.adGroup]!;
    if (sku === null || !skus.has(sku)) continue;
    const own = sums.get(sku) ?? new Map<string, ProductGrounds['proven'][number]>();
    sums.set(sku, own);
    const text = texts[term[row]!]!;
    const sum = own.get(text) ?? { text, orders: 0, clicks: 0, spend: 0, sales: 0 };
    sum.orders += seen.orders[row]!;
    sum.clicks += seen.clicks[row]!;
    sum.spend += seen.spend[row]!;
    sum.sales += seen.sales[row]!;
    own.set(text, sum);
  }
  return new Map(
    [...sums].map(([sku, own]) => [
      sku,
      [...own.values()].sort((a, b) => b.orders - a.orders || b.sales - a.sales),
    ]),
  );
}
