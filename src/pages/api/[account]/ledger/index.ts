import { listSheets } from '../../../../server/changes/index.ts';
import { reads } from '../../../../server/http.ts';

export const GET = reads(async ({ accountId }) => ({ sheets: await listSheets(accountId) }));
