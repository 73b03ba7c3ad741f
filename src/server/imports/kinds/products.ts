import { upsertProducts } from '../../account/queries.ts';
import { column } from '../files/columns.ts';
import type { RowCheck } from '../files/read.ts';
import { inBatches, noDays } from '../staging/loader.ts';
import type { Kind } from './kind.ts';
import { sku } from './shared.ts';

const checkRates: RowCheck = ({ refund_rate, fee_rate }) => {
  const column = Object.entries({ refund_rate, fee_rate }).find(([, rate]) => (rate as number) > 1)?.[0];
  return column ? { column, reason: 'It is above 1: write it as 0.15 or as 15%.' } : null;
};

/** The products with their prices, costs and stock. */
export const products: Kind = {
  columns: [
    sku,
    column('item_code', 'text', 'item', true),
    column('title', 'text', 'name, product, product name, product title', true),
    column('brand', 'text', 'make'),
    column('category', 'text', 'product category'),
    column('price', 'money', 'sale price, list price', true),
    column('unit_cost', 'money', 'cost, cost of goods, landed cost, purchase price'),
    column('fee_rate', 'share', 'commission, referral rate'),
    column('fee_fixed', 'money', 'fixed fee'),
    column('shipping', 'money', 'shipping cost, delivery, fulfilment'),
    column('refund_rate', 'share', 'refunds, return rate, returns'),
    column('rating', 'number', 'stars, review rating'),
    column('stock', 'count', 'quantity, inventory, units in stock'),
  ],
  open: ({ tx, accountId }) =>
    inBatches(
      checkRates,
      (rows) => upsertProducts(tx, accountId, rows),
      () => Promise.resolve(noDays),
    ),
};
