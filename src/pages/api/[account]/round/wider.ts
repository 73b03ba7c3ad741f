import { windowOf } from '../../../../server/account/index.ts';
import { readsKept } from '../../../../server/http/http.ts';
import { widerOf } from '../../../../server/round/index.ts';

/** Words, conflicts and structure that wait for a decision in a window (?from&to), as the queue shows them. */
export const GET = readsKept(async ({ accountId, query }) =>
  widerOf(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);
