import { check, readsKept } from '../../../../server/http/http.ts';
import { idleSchema, withoutOrders } from '../../../../server/idle/index.ts';

/** What was clicked and sold nothing (?level&span&text&offset&limit): span in days, or `change`. */
export const GET = readsKept(({ accountId, query }) =>
  withoutOrders(accountId, check(idleSchema, Object.fromEntries(query))),
);
