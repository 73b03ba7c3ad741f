import { readsKept, writes } from '../../../../../server/http.ts';
import { windowOf } from '../../../../../server/round/index.ts';
import { negativesCall } from '../../../../../server/terms/door.ts';
import { addNegatives, negativesOf } from '../../../../../server/terms/negatives.ts';

/** Every negative with the terms and the money that it keeps away (?from&to), the places and the lists. */
export const GET = readsKept(async ({ accountId, query }) =>
  negativesOf(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);

/** Puts negatives onto the sheet. */
export const POST = writes(negativesCall, ({ accountId, body }) => addNegatives(accountId, body));
