import { reads } from '../../../../server/http/http.ts';
import { categoriesOf } from '../../../../server/kits/index.ts';

/** Categories of the marketplace's catalogue. */
export const GET = reads(({ accountId }) => categoriesOf(accountId));
