import { column, zero } from '../files/columns.ts';
import { openDays, type DayFact } from '../staging/days.ts';
import type { Kind } from './kind.ts';
import { date, sku } from './shared.ts';

const fact: DayFact = {
  fact: 'product_day',
  staged: {
    sku: 'text',
    sessions: 'integer',
    total_orders: 'integer',
    total_units: 'integer',
    total_sales: 'bigint',
  },
  orders: 'total_orders',
  check: null,
  merge: (tx, accountId) => tx`
    insert into product_day
    select ${accountId}, date, sku, sum(coalesce(sessions, 0)), sum(coalesce(total_orders, 0)),
      sum(coalesce(total_units, total_orders, 0)), sum(coalesce(total_sales, 0))
    from staged_day group by date, sku`,
};

/** What each product sold on each day, with and without ads. */
export const productsDaily: Kind = {
  columns: [
    date,
    sku,
    column('item_code', 'text', 'item'),
    zero(column('sessions', 'count', 'visits')),
    zero(column('total_orders', 'count', 'orders')),
    zero(column('total_units', 'count', 'units')),
    zero(column('total_sales', 'money', 'sales, revenue', true)),
  ],
  open: ({ tx, accountId, months }) => openDays(tx, accountId, fact, months),
  analysed: (own) => [own('product_day')],
};
