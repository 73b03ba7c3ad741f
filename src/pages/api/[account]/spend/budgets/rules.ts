import { ruleSchema, setRule } from '../../../../../server/budgets/index.ts';
import { writes } from '../../../../../server/http/http.ts';

/** Keeps what is said of a total; with nothing said of it, it goes. Money in micros, a day. */
export const PUT = writes(ruleSchema, ({ accountId, body }) => setRule(accountId, body));
