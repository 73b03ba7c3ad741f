import { windowOf } from '../../../../../server/account/index.ts';
import { writes } from '../../../../../server/http/http.ts';
import { acceptStrategies, strategyOrderSchema } from '../../../../../server/placements/index.ts';

/** Puts the strategy that would serve campaigns better onto the open sheet for all of them, all or none. */
export const POST = writes(strategyOrderSchema, async ({ accountId, body: { from, to, ...order } }) =>
  acceptStrategies(accountId, await windowOf(accountId, from, to), order),
);
