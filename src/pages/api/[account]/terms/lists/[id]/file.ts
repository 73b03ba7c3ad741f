import { numberIn, reads } from '../../../../../../server/http/http.ts';
import { listCsv, listOf } from '../../../../../../server/terms/index.ts';

/** The list as CSV. */
export const GET = reads(async ({ accountId, context }) => {
  const list = await listOf(accountId, numberIn(context, 'id', 'list'));
  return new Response(listCsv(list.entries), {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': 'attachment; filename="negatives.csv"',
    },
  });
});
