import { readsKept, writes } from '../../../../../server/http/http.ts';
import { db } from '../../../../../server/db/connection.ts';
import { negativeList, saveList, listRows } from '../../../../../server/terms/index.ts';

export const GET = readsKept(async ({ accountId }) => ({ lists: await listRows(db(), accountId) }));

/** Makes a list of negatives. */
export const POST = writes(negativeList, ({ accountId, body }) => saveList(accountId, null, body));
