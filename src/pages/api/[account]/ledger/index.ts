import { listSheets } from '../../../../server/changes/index.ts';
import { readsKept } from '../../../../server/http/http.ts';

export const GET = readsKept(async ({ accountId }) => ({ sheets: await listSheets(accountId) }));
