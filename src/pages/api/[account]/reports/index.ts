import { windowOf } from '../../../../server/account/index.ts';
import { readsKept, writes } from '../../../../server/http/http.ts';
import { makeReport, reportSchema, reportsOf } from '../../../../server/today/index.ts';

/** Reports that were made, the newest first. */
export const GET = readsKept(({ accountId }) => reportsOf(accountId));

/** Makes a report on a window; its figures stay as they are now. */
export const POST = writes(reportSchema, async ({ accountId, body: { from, to } }) =>
  makeReport(accountId, await windowOf(accountId, from, to)),
);
