import { openSheet } from '../../../../server/changes/index.ts';
import { reads } from '../../../../server/http.ts';

export const GET = reads(({ accountId }) => openSheet(accountId));
