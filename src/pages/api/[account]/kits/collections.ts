import { reads } from '../../../../server/http/http.ts';
import { collectionsOf } from '../../../../server/kits/index.ts';

/** Ad groups whose rules choose their products: who is in, who joined and left. */
export const GET = reads(({ accountId }) => collectionsOf(accountId));
