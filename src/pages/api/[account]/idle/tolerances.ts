import { readsKept, writes } from '../../../../server/http/http.ts';
import { setTolerances, tolerancesOf, tolerancesSchema } from '../../../../server/idle/index.ts';

/** Losses that are borne on purpose, as they stand. */
export const GET = readsKept(({ accountId }) => tolerancesOf(accountId));

/** Sets tolerances (money in micros a week), or ends them with null. */
export const PUT = writes(tolerancesSchema, ({ accountId, body }) => setTolerances(accountId, body));
