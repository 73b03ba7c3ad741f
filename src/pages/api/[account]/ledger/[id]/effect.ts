import { effectOfSheet } from '../../../../../server/changes/index.ts';
import { numberIn, readsKept } from '../../../../../server/http/http.ts';

/** What all applied lines of a sheet touched before and after; null while no day after it has settled. */
export const GET = readsKept(async ({ accountId, context }) => ({
  effect: await effectOfSheet(accountId, numberIn(context, 'id', 'sheet')),
}));
