import { numberIn, reads } from '../../../../../server/http/http.ts';
import { reportFile } from '../../../../../server/today/index.ts';

/** A report as a page that prints (?as=html), or as PDF. */
export const GET = reads(({ accountId, context, query }) =>
  reportFile(accountId, numberIn(context, 'id', 'report'), query.get('as') ?? 'html'),
);
