import { windowOf } from '../../../../../server/account/index.ts';
import { scopeAnswer, scopeOf, weeksOf } from '../../../../../server/hours/index.ts';
import { readsKept } from '../../../../../server/http/http.ts';

/** One scope at every time of the week (?from&to&weeks&of=account, product:SKU, campaign:ID or ad_group:ID). */
export const GET = readsKept(async ({ accountId, query }) =>
  scopeAnswer(
    accountId,
    await windowOf(accountId, query.get('from'), query.get('to')),
    weeksOf(query),
    scopeOf(query),
  ),
);
