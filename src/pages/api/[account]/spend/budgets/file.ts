import { windowOf } from '../../../../../server/account/index.ts';
import { budgetsCsv, readBudgetsCsv } from '../../../../../server/budgets/index.ts';
import { bytesOf, reads } from '../../../../../server/http/http.ts';

/** Daily budgets as CSV, beside what campaigns spend over a window (?from&to). */
export const GET = reads(async ({ accountId, query }) => {
  const window = await windowOf(accountId, query.get('from'), query.get('to'));
  return new Response(await budgetsCsv(accountId, window), {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': 'attachment; filename="budgets.csv"',
    },
  });
});

/** Reads a CSV of budgets: those that would change, and what is wrong with the others. Nothing is put on the sheet. */
export const POST = reads(async ({ accountId, context }) =>
  readBudgetsCsv(accountId, await bytesOf(context.request)),
);
