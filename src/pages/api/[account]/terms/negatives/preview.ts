import { asks } from '../../../../../server/http.ts';
import { negativesCall } from '../../../../../server/terms/door.ts';
import { previewNegatives } from '../../../../../server/terms/negatives.ts';

/** What adding negatives would put onto the sheet, and what is wrong with which line. */
export const POST = asks(negativesCall, ({ accountId, body }) => previewNegatives(accountId, body));
