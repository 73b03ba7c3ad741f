import { readsKept, writes } from '../../../../server/http.ts';
import { laneSet } from '../../../../server/lanes/door.ts';
import { laneMapOf, saveLanes } from '../../../../server/lanes/index.ts';
import { windowOf } from '../../../../server/round/index.ts';

/** The lanes in force with what went down each in a window (?from&to), and the ad groups of the map. */
export const GET = readsKept(async ({ accountId, query }) =>
  laneMapOf(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);

/** Puts a whole set of lanes in the place of the one before; null goes back to what the account proposes. */
export const PUT = writes(laneSet, ({ accountId, body }) => saveLanes(accountId, body.lanes));
