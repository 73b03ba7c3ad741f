import { reads } from '../../../../../server/http.ts';
import { windowOf } from '../../../../../server/round/index.ts';
import { wouldFlow } from '../../../../../server/terms/negatives.ts';

/** The terms that would flow again without this negative (?from&to). */
export const GET = reads(async ({ accountId, query, context }) =>
  wouldFlow(accountId, await windowOf(accountId, query.get('from'), query.get('to')), context.params.id!),
);
