import { readsKept } from '../../../server/http/http.ts';
import { seasonOf } from '../../../server/round/index.ts';

export const GET = readsKept(({ accountId }) => seasonOf(accountId));
