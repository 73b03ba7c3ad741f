import { windowOf } from '../../../../../server/account/index.ts';
import { budgetOrderSchema, budgetsAnswer, setBudgets } from '../../../../../server/budgets/index.ts';
import { readsKept, writes } from '../../../../../server/http/http.ts';

/** Running campaigns by their budgets over a window (?from&to), those with a finding first. */
export const GET = readsKept(async ({ accountId, query }) =>
  budgetsAnswer(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);

/** Puts daily budgets onto the open sheet, all or none. Money in micros. */
export const POST = writes(budgetOrderSchema, async ({ accountId, body: { from, to, ...orders } }) =>
  setBudgets(accountId, await windowOf(accountId, from, to), orders),
);
