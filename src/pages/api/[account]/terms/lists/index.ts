import { readsKept, writes } from '../../../../../server/http.ts';
import { db } from '../../../../../server/db/connection.ts';
import { negativeList } from '../../../../../server/terms/door.ts';
import { saveList } from '../../../../../server/terms/negatives.ts';
import { listRows } from '../../../../../server/terms/queries.ts';

export const GET = readsKept(async ({ accountId }) => ({ lists: await listRows(db(), accountId) }));

/** Makes a list of negatives. */
export const POST = writes(negativeList, ({ accountId, body }) => saveList(accountId, null, body));
