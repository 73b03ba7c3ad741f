import { reads } from '../../../../server/http.ts';
import { sheetCsv } from '../../../../server/exports/sheet.ts';

/** The lines of a sheet as the `changes` file. */
export const GET = reads(async ({ accountId, context }) => {
  const id = Number(context.params.id) || 0;
  return new Response(await sheetCsv(accountId, id), {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': `attachment; filename="sheet-${id}.csv"`,
    },
  });
});
