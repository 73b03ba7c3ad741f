import { windowOf } from '../../../../../server/account/index.ts';
import { readsKept, writes } from '../../../../../server/http/http.ts';
import {
  acceptPlacements,
  placementOrderSchema,
  placementsAnswer,
} from '../../../../../server/placements/index.ts';

/** Running campaigns by placement over a window (?from&to), those with a finding first. */
export const GET = readsKept(async ({ accountId, query }) =>
  placementsAnswer(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);

/** Puts modifiers (per cent) and a factor on the bids of one campaign onto the open sheet, all or none. */
export const POST = writes(placementOrderSchema, async ({ accountId, body: { from, to, ...order } }) =>
  acceptPlacements(accountId, await windowOf(accountId, from, to), order),
);
