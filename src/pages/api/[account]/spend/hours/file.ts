import { readSchedulesCsv, schedulesCsv } from '../../../../../server/hours/index.ts';
import { bytesOf, reads } from '../../../../../server/http/http.ts';

/** Schedules as CSV, a row an hour of the week. */
export const GET = reads(
  async ({ accountId }) =>
    new Response(await schedulesCsv(accountId), {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': 'attachment; filename="schedules.csv"',
      },
    }),
);

/** Reads a CSV of schedules: those that would change, and what is wrong with rows. Nothing is put on the sheet. */
export const POST = reads(async ({ accountId, context }) =>
  readSchedulesCsv(accountId, await bytesOf(context.request)),
);
