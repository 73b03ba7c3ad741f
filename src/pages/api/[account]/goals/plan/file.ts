import { planCsv, readPlanCsv } from '../../../../../server/plan/index.ts';
import { bytesOf, reads } from '../../../../../server/http/http.ts';

/** The plan of the months to come as CSV. */
export const GET = reads(
  async ({ accountId }) =>
    new Response(await planCsv(accountId), {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': 'attachment; filename="plan.csv"',
      },
    }),
);

/** Reads a CSV of plans: rows that would change something, and what is wrong with the others. Nothing is kept. */
export const POST = reads(async ({ accountId, context }) =>
  readPlanCsv(accountId, await bytesOf(context.request)),
);
