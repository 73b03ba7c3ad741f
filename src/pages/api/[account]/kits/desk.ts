import { reads } from '../../../../server/http/http.ts';
import { deskOf } from '../../../../server/kits/index.ts';

/** What every kit starts from: products, recipes, limits, names that are taken. */
export const GET = reads(({ accountId }) => deskOf(accountId));
