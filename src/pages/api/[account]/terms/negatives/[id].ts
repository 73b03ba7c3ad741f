import { windowOf } from '../../../../../server/account/index.ts';
import { reads } from '../../../../../server/http/http.ts';
import { wouldFlow } from '../../../../../server/terms/index.ts';

/** The terms that would flow again without this negative (?from&to). */
export const GET = reads(async ({ accountId, query, context }) =>
  wouldFlow(accountId, await windowOf(accountId, query.get('from'), query.get('to')), context.params.id!),
);
