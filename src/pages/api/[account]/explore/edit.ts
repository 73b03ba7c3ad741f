import { editSchema, applyEdit } from '../../../../server/explore/index.ts';
import { writes } from '../../../../server/http/http.ts';

/** Puts the lines of an edit onto the open sheet, all or none. */
export const POST = writes(editSchema, ({ accountId, body }) => applyEdit(accountId, body, body));
