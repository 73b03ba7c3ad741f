import { bytesOf, reads } from '../../../../server/http/http.ts';
import { lanesCsv, readLanesCsv } from '../../../../server/lanes/index.ts';

/** The lanes in force as CSV. */
export const GET = reads(
  async ({ accountId }) =>
    new Response(await lanesCsv(accountId), {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': 'attachment; filename="lanes.csv"',
      },
    }),
);

/** Reads a CSV of lanes: those that can stand, and what is wrong with the others. Nothing is saved. */
export const POST = reads(async ({ accountId, context }) =>
  readLanesCsv(accountId, await bytesOf(context.request)),
);
