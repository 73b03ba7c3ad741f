import { reads } from '../../../../server/http/http.ts';
import { groundsAnswer } from '../../../../server/kits/index.ts';

/** What account and marketplace say about a product (?sku). */
export const GET = reads(({ accountId, query }) => groundsAnswer(accountId, query.get('sku') ?? ''));
