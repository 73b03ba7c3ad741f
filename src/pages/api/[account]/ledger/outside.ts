import { listOutside } from '../../../../server/changes/index.ts';
import { readsKept } from '../../../../server/http/http.ts';

/** What was changed at the marketplace and not by a sheet, the newest first. */
export const GET = readsKept(({ accountId }) => listOutside(accountId));
