import { openSheet } from '../../../../server/changes/index.ts';
import { readsKept } from '../../../../server/http.ts';

export const GET = readsKept(({ accountId }) => openSheet(accountId));
