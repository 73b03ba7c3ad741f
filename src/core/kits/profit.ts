import { counted, money } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';

/** Which products of a kit share campaigns: each has its own, those of like profit share, or all do. */
export const togethers = ['apart', 'alike', 'all'] as const;
export type Together = (typeof togethers)[number];

/** Products are of like profit per order while the dearest may pay at most this often what the least one may. */
const mostUnequal = 1.25;

interface Profit {
  sku: string;
  /** Profit per order before advertising, micros: what an order may cost at most; null while its costs are unknown. */
  profit: Micros | null;
}

export interface Sharing {
  skus: readonly [string, ...string[]];
  /** Why these should not share campaigns, with what an order of each may cost; null where nothing speaks against it. */
  warning: string | null;
}

/**
 * Products of like profit per order, the dearest first; those whose profit is unknown stay alone (domain, section 15:
 * one affordable cost per order holds for all that share a campaign).
 */
export function alikeGroups(products: readonly Profit[]): [string, ...string[]][] {
  const sorted = products
    .filter((one): one is Profit & { profit: Micros } => one.profit !== null && one.profit > 0)
    .sort((a, b) => b.profit - a.profit);
  const groups: [string, ...string[]][] = [];
  let most = 0;
  for (const { sku, profit } of sorted) {
    const last = groups.at(-1);
    if (last && most <= mostUnequal * profit) last.push(sku);
    else {
      groups.push([sku]);
      most = profit;
    }
  }
  const others = products.filter(({ profit }) => profit === null || profit <= 0);
  return [...groups, ...others.map(({ sku }): [string] => [sku])];
}

/** Who shares campaigns with whom, in the order of the products. */
export function sharing(products: readonly Profit[], together: Together): Sharing[] {
  if (products.length === 0) return [];
  const at = new Map(products.map(({ sku }, place) => [sku, place]));
  const inOrder = (skus: readonly string[]) =>
    [...skus].sort((a, b) => at.get(a)! - at.get(b)!) as [string, ...string[]];
  const all = products.map(({ sku }) => sku) as [string, ...string[]];
  const groups =
    together === 'apart'
      ? all.map((sku): [string] => [sku])
      : together === 'all'
        ? [all]
        : alikeGroups(products)
            .map(inOrder)
            .sort((a, b) => at.get(a[0])! - at.get(b[0])!);
  return groups.map((skus) => ({
    skus,
    warning: warningOf(products.filter(({ sku }) => skus.includes(sku))),
  }));
}

function warningOf(products: readonly Profit[]): string | null {
  if (products.length < 2) return null;
  const groups = alikeGroups(products);
  if (groups.length === 1) return null;
  const afford = products
    .map(({ sku, profit }) => `${sku} ${profit === null ? 'unknown' : money(profit)}`)
    .join(', ');
  const apart = groups.map((skus) => skus.join(' with ')).join('; ');
  return (
    `These products earn unequal profit per order, so that no bid is right for all. An order may cost: ${afford}. ` +
    `In ${counted(groups.length, 'set')} of like profit: ${apart}.`
  );
}
