import type { Micros } from './money.ts';

/** Sums of a row or of a group of rows. Counts are whole numbers, money is micros. */
export interface Sums {
  impressions: number;
  clicks: number;
  spend: Micros;
  orders: number;
  units: number;
  sales: Micros;
}

export const noSums: Readonly<Sums> = { impressions: 0, clicks: 0, spend: 0, orders: 0, units: 0, sales: 0 };

export function addSums(a: Sums, b: Sums): Sums {
  return {
    impressions: a.impressions + b.impressions,
    clicks: a.clicks + b.clicks,
    spend: a.spend + b.spend,
    orders: a.orders + b.orders,
    units: a.units + b.units,
    sales: a.sales + b.sales,
  };
}

/** The sums of a group; its ratios are then ratios of these sums (domain, section 3). */
export const total = (rows: Iterable<Sums>): Sums => {
  let sum: Sums = noSums;
  for (const row of rows) sum = addSums(sum, row);
  return sum;
};

/** a / b, or null where there is nothing to divide by: shown as a dash, never as 0. */
const ratio = (a: number, b: number): number | null => (b === 0 ? null : a / b);

/** Clicks per impression, share 0-1. */
export const ctr = (sums: Sums) => ratio(sums.clicks, sums.impressions);
/** Spend per click, micros. */
export const cpc = (sums: Sums) => ratio(sums.spend, sums.clicks);
/** Orders per click, share. */
export const cvr = (sums: Sums) => ratio(sums.orders, sums.clicks);
/** Sales per click (RPC), micros. */
export const revenuePerClick = (sums: Sums) => ratio(sums.sales, sums.clicks);
/** Sales per order (AOV), micros. */
export const averageOrderValue = (sums: Sums) => ratio(sums.sales, sums.orders);
/** Spend per order (CPA), micros. */
export const costPerOrder = (sums: Sums) => ratio(sums.spend, sums.orders);
/** Sales per unit of spend. */
export const roas = (sums: Sums) => ratio(sums.sales, sums.spend);
/**
 * Spend / total sales, with organic; share.
 * @example tacos(26_000_000, 260_000_000) // 0.1
 */
export const tacos = (spend: Micros, totalSales: Micros) => ratio(spend, totalSales);

/**
 * Spend / sales as a share. Spend without sales is Infinity ("no sales", sorted as worst); no spend and no sales
 * is null.
 * @example acos({ spend: 26_000_000, sales: 100_000_000 }) // 0.26
 * @example acos({ spend: 4_000_000, sales: 0 }) // Infinity
 * @example acos({ spend: 0, sales: 0 }) // null
 */
export function acos(sums: Pick<Sums, 'spend' | 'sales'>): number | null {
  if (sums.sales > 0) return sums.spend / sums.sales;
  return sums.spend > 0 ? Infinity : null;
}

/**
 * target ACOS x sales - spend, micros; negative: money over target.
 * @example gainAgainstTarget({ spend: 30_000_000, sales: 100_000_000 }, 0.26) // -4_000_000
 */
export const gainAgainstTarget = (sums: Pick<Sums, 'spend' | 'sales'>, targetAcos: number): Micros =>
  Math.round(targetAcos * sums.sales - sums.spend);

/**
 * margin x sales - spend, micros.
 * @example adProfit({ spend: 30_000_000, sales: 100_000_000 }, 0.4) // 10_000_000
 */
export const adProfit = (sums: Pick<Sums, 'spend' | 'sales'>, margin: number): Micros =>
  Math.round(margin * sums.sales - sums.spend);

/** What a product costs beside advertising. Money in micros, rates as shares. */
export interface Economics {
  price: Micros;
  unitCost: Micros;
  feeRate: number;
  feeFixed: Micros;
  shipping: Micros;
  refundRate: number;
}

/** (price - unit cost - fees - shipping - expected refunds) / price: also the break-even ACOS. Null without a price. */
export function margin(product: Economics): number | null {
  if (product.price <= 0) return null;
  const fees = product.feeRate * product.price + product.feeFixed;
  const refunds = product.refundRate * product.price;
  return (product.price - product.unitCost - fees - product.shipping - refunds) / product.price;
}
