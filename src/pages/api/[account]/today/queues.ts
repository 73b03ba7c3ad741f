import { windowOf } from '../../../../server/account/index.ts';
import { readsKept } from '../../../../server/http/http.ts';
import { queuesOf } from '../../../../server/today/index.ts';

/** What waits for a decision by kind, over a window (?from&to): how many, what they are worth, and the one worth most. */
export const GET = readsKept(async ({ accountId, query }) =>
  queuesOf(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);
