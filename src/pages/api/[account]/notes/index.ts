import { windowOf } from '../../../../server/account/index.ts';
import { readsKept, writes } from '../../../../server/http/http.ts';
import { makeNote, noteSchema, notesIn } from '../../../../server/today/index.ts';

/** Notes that touch a window (?from&to), with ?q those that hold these words. */
export const GET = readsKept(async ({ accountId, query }) =>
  notesIn(accountId, await windowOf(accountId, query.get('from'), query.get('to')), query.get('q') ?? ''),
);

/** Notes what happened on a day, or from one to another. */
export const POST = writes(noteSchema, ({ accountId, body }) => makeNote(accountId, body));
