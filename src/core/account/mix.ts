import type { Micros } from '../metrics/money.ts';
import type { ProductInfo } from './rows.ts';

/** What an ad group that advertises several products really sells: shares of its sales, 1 together; most first. */
export type Mix = readonly { sku: string; share: number }[];

/** What was sold of a product that an ad group advertises; money in micros. */
export interface SoldProduct {
  sku: string;
  price: Micros | null;
  sales: Micros;
}

/** An even split over what is advertised counts for so many orders: a few say little of what sells. */
const evenOrders = 5;

/**
 * Shares of sales of the products of one ad group, drawn to an even split of a few orders; null of fewer than two.
 * @example mixOf([{ sku: 'a', price: 10, sales: 150 }, { sku: 'b', price: 10, sales: 0 }]) // [{ sku: 'a', share: 0.875 }, { sku: 'b', share: 0.125 }]
 */
export function mixOf(products: readonly SoldProduct[]): Mix | null {
  if (products.length < 2) return null;
  const prices = products.flatMap(({ price }) => (price === null || price <= 0 ? [] : [price]));
  const usual = prices.length > 0 ? prices.reduce((a, b) => a + b, 0) / prices.length : 1;
  const weights = products.map(
    ({ price, sales }) =>
      sales + (evenOrders / products.length) * (price !== null && price > 0 ? price : usual),
  );
  const all = weights.reduce((a, b) => a + b, 0);
  return products
    .map(({ sku }, at) => ({ sku, share: weights[at]! / all }))
    .sort((a, b) => b.share - a.share || (a.sku < b.sku ? -1 : 1));
}

/** Mixes of ad groups that advertise several products, by ad group. */
export type Mixes = ReadonlyMap<string, Mix>;

export function mixesOf(rows: readonly (SoldProduct & { adGroupId: string })[]): Mixes {
  const byAdGroup = new Map<string, SoldProduct[]>();
  for (const row of rows) {
    const own = byAdGroup.get(row.adGroupId);
    if (own) own.push(row);
    else byAdGroup.set(row.adGroupId, [row]);
  }
  return new Map(
    [...byAdGroup].flatMap(([id, products]) => {
      const mix = mixOf(products);
      return mix ? [[id, mix] as const] : [];
    }),
  );
}

/** Margin before ads of what an ad group sells, share of sales; null where it is not known of all of it. */
export function marginSold(
  { adGroupId, sku }: { adGroupId: string; sku: string | null },
  marginOf: (sku: string) => number | null,
  mixes?: Mixes,
): number | null {
  const mix = mixes?.get(adGroupId);
  return mix ? marginOfMix(mix, marginOf) : sku === null ? null : marginOf(sku);
}

/** The same of a mix. */
export function marginOfMix(mix: Mix, marginOf: (sku: string) => number | null): number | null {
  let margin = 0;
  for (const { sku: one, share } of mix) {
    const own = marginOf(one);
    if (own === null) return null;
    margin += share * own;
  }
  return margin;
}

/** Price of an order of what an ad group sells, micros: shares are of sales, so prices are met by their inverse. 0: unknown. */
export function priceSold(
  { adGroupId, sku }: { adGroupId: string; sku: string | null },
  products: ReadonlyMap<string, ProductInfo>,
  mixes?: Mixes,
): Micros {
  const mix = mixes?.get(adGroupId);
  if (!mix) return sku === null ? 0 : (products.get(sku)?.price ?? 0);
  let orders = 0;
  for (const { sku: one, share } of mix) {
    const price = products.get(one)?.price ?? 0;
    if (!(price > 0)) return 0;
    orders += share / price;
  }
  return 1 / orders;
}
