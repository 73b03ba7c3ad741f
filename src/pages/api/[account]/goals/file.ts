import { reads } from '../../../../server/http/http.ts';
import { costsCsv, goalsCsv } from '../../../../server/goals/index.ts';

/** Goals as CSV; with ?of=costs what products cost. */
export const GET = reads(async ({ accountId, query }) => {
  const name = query.get('of') === 'costs' ? 'costs' : 'goals';
  return new Response(await (name === 'costs' ? costsCsv(accountId) : goalsCsv(accountId)), {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': `attachment; filename="${name}.csv"`,
    },
  });
});
