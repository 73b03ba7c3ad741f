import { windowOf } from '../../../../../server/account/index.ts';
import { readsKept, writes } from '../../../../../server/http/http.ts';
import { negativesCall, addNegatives, negativesOf } from '../../../../../server/terms/index.ts';

/** Every negative with the terms and the money that it keeps away (?from&to), the places and the lists. */
export const GET = readsKept(async ({ accountId, query }) =>
  negativesOf(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);

/** Puts negatives onto the sheet. */
export const POST = writes(negativesCall, ({ accountId, body }) => addNegatives(accountId, body));
