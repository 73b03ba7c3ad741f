import type { Micros } from '../metrics/money.ts';
import { highest } from './prior.ts';

/** What the siblings of a row say about the value of its orders. */
export interface SiblingValue {
  /** Mean sales per order, micros. */
  mean: Micros;
  /** For how many orders of the row that counts: k of the domain (section 5). */
  weight: number;
}

/** k before an account has told it: rows differ by a tenth, orders of one row by two fifths (k = 0.4^2 / 0.1^2 = 16). */
export const usualValueWeight = 16;
/** Standard deviation of ln k. */
const spread = 1.5;

/**
 * Value per order in micros: (k v + sales) / (k + orders), v and k of the siblings (domain, section 5).
 * @example valuePerOrder({ mean: 20_000_000, weight: 16 }, 0, 0) // 20_000_000
 * @example valuePerOrder({ mean: 20_000_000, weight: 16 }, 120_000_000, 4) // 22_000_000
 */
export const valuePerOrder = ({ mean, weight }: SiblingValue, sales: Micros, orders: number): Micros =>
  (weight * mean + sales) / (weight + orders);

/** Orders and sales of one row, in micros, and whose siblings they are. */
export interface SoldRow {
  group: number | string;
  orders: number;
  sales: Micros;
}

/**
 * k by likelihood: how far orders of one row differ (sigma^2), against how far rows differ from each other (tau^2);
 * k = sigma^2 / tau^2 (Buehlmann and Straub's credibility). With h the share of a row in the orders of its group, the
 * mean of its m orders over the group's is taken for Normal(1, tau^2 (1 - 2h + sum(h^2) + (1 - h) k / m)), tau at its
 * best for each k; ln k ~ Normal(ln 16, 1.5). Rows alone in their group tell nothing.
 */
export function learnValueWeight(rows: readonly SoldRow[]): number {
  const groups = new Map<number | string, { orders: number; sales: Micros; squares: number }>();
  for (const { group, orders, sales } of rows) {
    const sum = groups.get(group) ?? { orders: 0, sales: 0, squares: 0 };
    groups.set(group, {
      orders: sum.orders + orders,
      sales: sum.sales + sales,
      squares: sum.squares + orders ** 2,
    });
  }
  const told: { square: number; between: number; within: number }[] = [];
  for (const { group, orders, sales } of rows) {
    const all = groups.get(group)!;
    if (orders <= 0 || orders >= all.orders || all.sales <= 0) continue;
    const share = orders / all.orders;
    told.push({
      square: (sales / orders / (all.sales / all.orders) - 1) ** 2,
      between: 1 - 2 * share + all.squares / all.orders ** 2,
      within: (1 - share) / orders,
    });
  }
  if (!told.some(({ square }) => square > 1e-12)) return usualValueWeight;
  const usual = Math.log(usualValueWeight);
  const score = (lnK: number): number => {
    const k = Math.exp(lnK);
    let [logs, apart] = [0, 0];
    for (const { square, between, within } of told) {
      const variance = between + k * within;
      logs += Math.log(variance);
      apart += square / variance;
    }
    return -0.5 * (logs + told.length * Math.log(apart / told.length) + ((lnK - usual) / spread) ** 2);
  };
  return Math.exp(highest(score, usual - 3 * spread, usual + 3 * spread));
}
