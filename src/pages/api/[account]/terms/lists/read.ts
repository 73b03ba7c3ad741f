import { reads, textOf } from '../../../../../server/http/http.ts';
import { readNegativesText } from '../../../../../server/terms/index.ts';

/** Reads a CSV or a text of one negative a line; nothing is saved. */
export const POST = reads(async ({ context }) => ({
  entries: readNegativesText(await textOf(context.request)),
}));
