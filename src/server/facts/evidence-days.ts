import { addDays, daysBetween, type Day, type Window } from '../../core/metrics/days.ts';
import { daysOutOfStock } from '../../core/metrics/out-of-stock.ts';
import { presentDays, presentWeight } from '../../core/metrics/weights.ts';
import type { Database } from '../db/connection.ts';
import { advertised, productDays, toldDays } from './evidence-days.queries.ts';

/** Which days tell something, and about what. */

/** Days on which all products of an ad group were out of stock: no evidence about its terms and targets. */
export interface OutOfStock {
  ad_group_id: string;
  day: Day;
}

/** Days on which nothing that an ad group advertises could be sold (domain, section 4). */
export async function outOfStock(sql: Database, accountId: number, days: Window): Promise<OutOfStock[]> {
  const bySku = new Map<string, Awaited<ReturnType<typeof productDays>>>();
  for (const row of await productDays(sql, accountId, days.from, days.to))
    bySku.set(row.sku, [...(bySku.get(row.sku) ?? []), row]);
  const out = new Map([...bySku].map(([sku, rows]) => [sku, new Set(daysOutOfStock(rows))]));
  if (![...out.values()].some((found) => found.size > 0)) return [];
  const skus = new Map<string, string[]>();
  for (const { ad_group_id, sku } of await advertised(sql, accountId))
    skus.set(ad_group_id, [...(skus.get(ad_group_id) ?? []), sku]);
  return [...skus].flatMap(([ad_group_id, [first, ...others]]) =>
    [...(out.get(first!) ?? [])]
      .filter((day) => others.every((sku) => out.get(sku)?.has(day)))
      .map((day) => ({ ad_group_id, day })),
  );
}

/** How much each of the last days tells about the present bid. */
export interface PresentDay {
  day: Day;
  w: number;
}

/** Which of the last days tell about the present, of those that reports have told. */
export async function presentWeights(sql: Database, accountId: number, today: Day): Promise<PresentDay[]> {
  const from = addDays(today, 1 - presentDays);
  const told = await toldDays(sql, accountId, from, today);
  return Array.from({ length: presentDays }, (_, i) => addDays(from, i))
    .filter((day) => told.has(day))
    .map((day) => ({ day, w: presentWeight(daysBetween(day, today)) }));
}
