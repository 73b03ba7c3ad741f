import { readsKept, writes } from '../../../../../server/http/http.ts';
import { planOf, planSchema, setPlans } from '../../../../../server/goals/index.ts';

/** The months about the present one: what is planned, and what they brought. */
export const GET = readsKept(({ accountId }) => planOf(accountId));

/** Plans months, all or none; null where nothing is planned. Money in micros. */
export const PUT = writes(planSchema, ({ accountId, body }) => setPlans(accountId, body.rows));
