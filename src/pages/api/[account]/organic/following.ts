import { readsKept } from '../../../../server/http/http.ts';
import { organicFollowing } from '../../../../server/organic/index.ts';

/** What followed what over all products: rank after spend, organic sales after rank. */
export const GET = readsKept(async ({ accountId }) => organicFollowing(accountId));
