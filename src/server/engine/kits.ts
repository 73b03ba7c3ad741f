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
import { partKindOf, type RunningAdGroup, type RunningTarget } from '../../core/kits/running.ts';
import { windowEnding } from '../../core/metrics/days.ts';
import { evidenceDays } from '../../core/metrics/weights.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { wordsOf } from '../../core/text/normalise.ts';
import type { LoadedAccount } from '../memory/load.ts';
import type { Edition } from './edition.ts';

/** What the account in memory says about products that get a kit. */
export type AccountGrounds = Omit<ProductGrounds, 'itemCode' | 'page' | 'season' | 'shows'>;

interface Accounts {
  load: (
    edition: Pick<Edition, 'accountId' | 'figures'>,
    withTerms?: boolean,
  ) => Promise<LoadedAccount | null>;
}

const kindOf = ({ kind, matchType }: TargetObject): PartKind | null =>
  partKindOf({ kind: kind as RunningTarget['kind'], matchType });

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
    const margins = new Map(objects.products.map(({ sku, margin }) => [sku, margin]));
    const goals = new Goals(edition.goals, undefined, (sku) => margins.get(sku) ?? null);
    const habits = habitsOf(objects);
    const running = runningOf(objects, evidence.targets, new Set(skus));
    const like = new Map(skus.map((sku) => [sku, likeProducts(objects.products, sku)]));
    const proven = provenOf(account, evidence.pairs!, new Set([...skus, ...[...like.values()].flat()]));
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
          profit: product.margin === null ? null : product.margin * product.price,
          theta: goal.theta,
          floor: goal.bidFloor,
          ceiling: goal.bidCeiling,
          evidence: Object.fromEntries(
            partKinds.map((kind) => [kind, pools.of(kind, sku, product.price)]),
          ) as ProductGrounds['evidence'],
          served: servedOf(objects, sku),
          running: running.get(sku) ?? [],
          proven: (proven.get(sku) ?? []).slice(0, mostProven),
          alike: provenAlike(proven, sku, like.get(sku)!).slice(0, mostProven),
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

/** How an account calls its products in names, by SKU. */
export function habitsOf({ campaigns, adGroups }: Objects): Map<string, string> {
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

/** Ad groups of products that are not archived, with what stands in them, by SKU. */
function runningOf(
  { targets, adGroups, campaigns, negatives }: Objects,
  { seen }: EvidenceColumns,
  skus: ReadonlySet<string>,
): Map<string, RunningAdGroup[]> {
  const isGone = (status: string) => status === 'archived';
  const own = new Map<
    number,
    { targets: RunningTarget[]; negatives: RunningAdGroup['negatives'][number][] }
  >();
  adGroups.forEach(({ sku, status, campaign }, place) => {
    if (sku === null || !skus.has(sku) || isGone(status) || isGone(campaigns[campaign]!.status)) return;
    own.set(place, { targets: [], negatives: [] });
  });
  targets.forEach(({ id, adGroup, kind, matchType, expression, bid, status }, row) => {
    const place = own.get(adGroup);
    if (!place || isGone(status)) return;
    place.targets.push({
      targetId: id,
      kind: kind as RunningTarget['kind'],
      matchType,
      expression,
      bid,
      status,
      clicks: seen.clicks[row]!,
      orders: seen.orders[row]!,
    });
  });
  const ofCampaign = new Map<number, number[]>();
  for (const place of own.keys()) {
    const { campaign } = adGroups[place]!;
    ofCampaign.set(campaign, [...(ofCampaign.get(campaign) ?? []), place]);
  }
  for (const { campaign, adGroup, matchType, expression, status } of negatives) {
    if (isGone(status)) continue;
    const places = adGroup === null ? (ofCampaign.get(campaign) ?? []) : [adGroup];
    for (const place of places) own.get(place)?.negatives.push({ matchType, expression });
  }
  const found = new Map<string, RunningAdGroup[]>();
  for (const [place, stands] of own) {
    const { id, campaign, name, sku } = adGroups[place]!;
    const parent = campaigns[campaign]!;
    const daily = parent.fields.daily_budget;
    const one: RunningAdGroup = {
      campaignId: parent.id,
      adGroupId: id,
      campaign: parent.name,
      name,
      status: parent.status === 'enabled' ? adGroups[place]!.status : parent.status,
      dailyBudget: daily == null ? null : Number(daily),
      ...stands,
    };
    found.set(sku!, [...(found.get(sku!) ?? []), one]);
  }
  return found;
}

/** From which share of words in common on two titles are alike: those of one kind of thing. */
const leastAlike = 0.4;

/** Products whose titles have many words in common with that of this one (Jaccard), the most alike first. */
function likeProducts(products: Objects['products'], sku: string): string[] {
  const own = new Set(wordsOf(products.find((one) => one.sku === sku)?.title ?? ''));
  if (own.size === 0) return [];
  return products
    .flatMap(({ sku: other, title }) => {
      if (other === sku) return [];
      const words = new Set(wordsOf(title));
      const both = [...words].filter((word) => own.has(word)).length;
      const share = both / (own.size + words.size - both);
      return share >= leastAlike ? [{ other, share }] : [];
    })
    .sort((a, b) => b.share - a.share)
    .map(({ other }) => other);
}

/** Terms that sold for like products and not for this one; one text once, for whom it sold most. */
function provenAlike(
  proven: ReadonlyMap<string, ProductGrounds['proven']>,
  sku: string,
  like: readonly string[],
): ProductGrounds['alike'] {
  const own = new Set(proven.get(sku)?.map(({ text }) => text));
  const found = new Map<string, ProductGrounds['alike'][number]>();
  for (const other of like)
    for (const term of proven.get(other) ?? []) {
      const known = found.get(term.text);
      if (!own.has(term.text) && (!known || known.orders < term.orders))
        found.set(term.text, { ...term, sku: other });
    }
  return [...found.values()].sort((a, b) => b.orders - a.orders || b.sales - a.sales);
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
