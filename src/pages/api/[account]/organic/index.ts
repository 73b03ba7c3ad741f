import { windowOf } from '../../../../server/account/index.ts';
import { readsKept } from '../../../../server/http/http.ts';
import { organicProducts } from '../../../../server/organic/index.ts';

/** Products over a window (?from&to): their ads, what they sold without, and how far their ranks are seen. */
export const GET = readsKept(async ({ accountId, query }) =>
  organicProducts(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);
