import { limitSchema, setLimit } from '../../../../../server/budgets/index.ts';
import { writes } from '../../../../../server/http/http.ts';

/** Keeps what one campaign gets of a total at least and at most. Money in micros, a day. */
export const PUT = writes(limitSchema, ({ accountId, body }) => setLimit(accountId, body));
