import { bytesOf, reads } from '../../../../server/http/http.ts';
import { readKitsCsv } from '../../../../server/kits/index.ts';

/** Reads a CSV of kits: those that can be begun, and what is wrong with the other rows. Nothing is kept. */
export const POST = reads(async ({ accountId, context }) =>
  readKitsCsv(accountId, await bytesOf(context.request)),
);
