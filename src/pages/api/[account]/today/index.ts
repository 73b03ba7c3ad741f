import { windowOf } from '../../../../server/account/index.ts';
import { readsKept } from '../../../../server/http/http.ts';
import { todayAnswer } from '../../../../server/today/index.ts';

/** The account in one look, over a window (?from&to) against the one before. */
export const GET = readsKept(async ({ accountId, query }) =>
  todayAnswer(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);
