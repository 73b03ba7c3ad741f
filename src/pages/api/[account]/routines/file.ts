import { reads } from '../../../../server/http/http.ts';
import { exportItems, itemsWanted } from '../../../../server/routines/index.ts';

/** The log as a file (`format`: csv, xlsx or jsonl); what is asked for as of the log itself. */
export const GET = reads(({ accountId, query }) =>
  Promise.resolve(exportItems(accountId, itemsWanted(query), query.get('format') ?? 'csv')),
);
