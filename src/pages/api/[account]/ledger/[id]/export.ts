import { numberIn, reads } from '../../../../../server/http/http.ts';
import { sheetCsv } from '../../../../../server/exports/index.ts';

/** The lines of a sheet as the `changes` file. */
export const GET = reads(async ({ accountId, context }) => {
  const id = numberIn(context, 'id', 'sheet');
  return new Response(await sheetCsv(accountId, id), {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': `attachment; filename="sheet-${id}.csv"`,
    },
  });
});
