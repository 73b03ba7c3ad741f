import { stringify } from 'csv-stringify/sync';
import { units } from '../../core/metrics/money.ts';
import { db } from '../db/connection.ts';
import { productsOf } from '../account/queries.ts';
import { goalRows, namedPlaces } from './queries.ts';

/** Goals and costs as files (formats) that load again as they are. */

const money = (value: number | null): number | '' => (value === null ? '' : units(value));

/** Every goal that was set. */
export async function goalsCsv(accountId: number): Promise<string> {
  const rows = await goalRows(db(), accountId);
  const places = new Map(
    (await namedPlaces(db(), accountId)).map((place) => [`${place.scope}:${place.key}`, place]),
  );
  const lines = rows.flatMap((row) => {
    const place = places.get(`${row.scope}:${row.key}`);
    const isPlace = row.scope === 'campaign' || row.scope === 'ad_group';
    if (isPlace && !place) return [];
    return [
      {
        scope: row.scope,
        id: isPlace ? (place!.extId ?? '') : row.key,
        name: place?.name ?? '',
        objective: row.objective ?? '',
        target_acos: row.target_acos ?? '',
        target_margin: row.target_margin ?? '',
        bid_floor: money(row.bid_floor),
        bid_ceiling: money(row.bid_ceiling),
        stance: row.stance ?? '',
        method: row.method ?? '',
      },
    ];
  });
  return stringify(lines, { header: true, escape_formulas: true });
}

/** What every product costs. */
export async function costsCsv(accountId: number): Promise<string> {
  const lines = (await productsOf(db(), accountId)).map((row) => ({
    sku: row.sku,
    item_code: row.item_code,
    title: row.title,
    price: money(row.price),
    unit_cost: money(row.unit_cost),
    fee_rate: row.fee_rate ?? '',
    fee_fixed: money(row.fee_fixed),
    shipping: money(row.shipping),
    refund_rate: row.refund_rate ?? '',
  }));
  return stringify(lines, { header: true, escape_formulas: true });
}
