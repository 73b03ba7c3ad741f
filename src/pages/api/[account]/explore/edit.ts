import { editSchema } from '../../../../server/explore/door.ts';
import { applyEdit } from '../../../../server/explore/index.ts';
import { writes } from '../../../../server/http.ts';

/** Puts the lines of an edit onto the open sheet, all or none. */
export const POST = writes(editSchema, ({ accountId, body }) => applyEdit(accountId, body, body));
