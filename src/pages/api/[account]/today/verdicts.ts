import { windowOf } from '../../../../server/account/index.ts';
import { readsKept } from '../../../../server/http/http.ts';
import { verdictsOf } from '../../../../server/today/index.ts';

/** Targets and terms by what is known of them, with their spend in a window (?from&to). */
export const GET = readsKept(async ({ accountId, query }) =>
  verdictsOf(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);
