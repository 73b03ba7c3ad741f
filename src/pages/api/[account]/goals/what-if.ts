import { goalSchema } from '../../../../server/goals/index.ts';
import { windowOf } from '../../../../server/account/index.ts';
import { asks } from '../../../../server/http/http.ts';
import { whatIfOf } from '../../../../server/round/index.ts';

/** What the account's findings would be with a goal moved (?from&to). Nothing is kept. */
export const POST = asks(goalSchema, async ({ accountId, body, query }) =>
  whatIfOf(accountId, await windowOf(accountId, query.get('from'), query.get('to')), body),
);
