import { windowOf } from '../../../../server/account/index.ts';
import { ServiceError } from '../../../../server/errors.ts';
import { readsKept } from '../../../../server/http/http.ts';
import { organicProduct } from '../../../../server/organic/index.ts';

/** A product (?sku) on one time axis: its ads, ranks and sales, and what followed what; shares of a window (?from&to). */
export const GET = readsKept(async ({ accountId, query }) => {
  const sku = query.get('sku');
  if (!sku) throw new ServiceError(422, 'no_product', 'Say whose ranks: ?sku=.', { field: 'sku' });
  return organicProduct(accountId, sku, await windowOf(accountId, query.get('from'), query.get('to')));
});
