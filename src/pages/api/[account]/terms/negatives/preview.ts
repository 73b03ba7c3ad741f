import { asks } from '../../../../../server/http/http.ts';
import { negativesCall, previewNegatives } from '../../../../../server/terms/index.ts';

/** What adding negatives would put onto the sheet, and what is wrong with which line. */
export const POST = asks(negativesCall, ({ accountId, body }) => previewNegatives(accountId, body));
