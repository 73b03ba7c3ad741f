import { editSchema, previewEdit } from '../../../../server/explore/index.ts';
import { asks } from '../../../../server/http/http.ts';

/** What an edit would do: old and new of the first rows, counts of all, what guards hold back. Changes nothing. */
export const POST = asks(editSchema, ({ accountId, body }) => previewEdit(accountId, body, body));
