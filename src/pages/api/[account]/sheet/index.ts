import { openSheet } from '../../../../server/changes/index.ts';
import { readsKept } from '../../../../server/http/http.ts';

export const GET = readsKept(({ accountId }) => openSheet(accountId));
