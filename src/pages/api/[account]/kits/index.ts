import { reads, writes } from '../../../../server/http/http.ts';
import { kitNew, kitsList, newKit } from '../../../../server/kits/index.ts';

/** Kits of the account, the one changed last first. */
export const GET = reads(({ accountId }) => kitsList(accountId));

/** Begins a kit under a number of its maker's. */
export const POST = writes(kitNew, ({ accountId, body }) => newKit(accountId, body.kitId, body.body));
