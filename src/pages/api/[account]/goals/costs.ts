import { writes } from '../../../../server/http/http.ts';
import { costsSchema, setProductCosts } from '../../../../server/goals/index.ts';

/** Sets what a product costs: money in micros, rates as shares; null: unknown. */
export const PUT = writes(costsSchema, ({ accountId, body }) => setProductCosts(accountId, body));
