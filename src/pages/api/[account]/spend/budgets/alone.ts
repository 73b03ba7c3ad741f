import { windowOf } from '../../../../../server/account/index.ts';
import { readsKept } from '../../../../../server/http/http.ts';
import { aloneOf } from '../../../../../server/round/index.ts';

/** Best keywords that their campaigns' budgets starve, and what a campaign of their own would be (?from&to). */
export const GET = readsKept(async ({ accountId, query }) =>
  aloneOf(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);
