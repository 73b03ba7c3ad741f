import { windowOf } from '../../../../server/account/index.ts';
import { readsKept } from '../../../../server/http/http.ts';
import { queueOf } from '../../../../server/round/index.ts';

/** What waits for a decision in a window (?from&to, both days included), as queues show it, worth most first. */
export const GET = readsKept(async ({ accountId, query }) =>
  queueOf(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);
