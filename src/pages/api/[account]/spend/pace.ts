import { readsKept } from '../../../../server/http/http.ts';
import { paceOf } from '../../../../server/today/index.ts';

/** Where the month lands against its plan, and what money ends. */
export const GET = readsKept(({ accountId }) => paceOf(accountId));
