import { windowOf } from '../../../../server/account/index.ts';
import { readsKept, writes } from '../../../../server/http/http.ts';
import { laneSet, laneMapOf, saveLanes } from '../../../../server/lanes/index.ts';

/** The lanes in force with what went down each in a window (?from&to), and the ad groups of the map. */
export const GET = readsKept(async ({ accountId, query }) =>
  laneMapOf(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);

/** Puts a whole set of lanes in the place of the one before; null goes back to what the account proposes. */
export const PUT = writes(laneSet, ({ accountId, body }) => saveLanes(accountId, body.lanes));
