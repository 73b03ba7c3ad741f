import { pageWanted, sentPage } from '../../../../../server/changes/index.ts';
import { numberIn, readsKept } from '../../../../../server/http/http.ts';

/** A page of a sheet, each applied line with before and after. */
export const GET = readsKept(({ accountId, context, query }) => {
  const { view, from, count } = pageWanted(query);
  return sentPage(accountId, numberIn(context, 'id', 'sheet'), view, from, count);
});
