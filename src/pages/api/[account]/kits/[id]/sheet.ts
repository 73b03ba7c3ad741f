import { writes } from '../../../../../server/http/http.ts';
import { kitSend, putOnSheet } from '../../../../../server/kits/index.ts';

/** Puts all that a kit makes onto the open sheet, as one group. */
export const POST = writes(kitSend, ({ accountId, body, context }) =>
  putOnSheet(accountId, context.params.id ?? '', body.version),
);
