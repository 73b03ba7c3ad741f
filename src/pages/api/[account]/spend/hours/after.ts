import { windowOf } from '../../../../../server/account/index.ts';
import { notFound } from '../../../../../server/errors.ts';
import { afterAnswer } from '../../../../../server/hours/index.ts';
import { readsKept } from '../../../../../server/http/http.ts';

/** What the last change of a campaign's schedule did (?campaign=ID&from&to). */
export const GET = readsKept(async ({ accountId, query }) => {
  const id = query.get('campaign') ?? '';
  if (!/^\d{1,18}$/.test(id)) throw notFound('campaign of this id');
  return afterAnswer(accountId, await windowOf(accountId, query.get('from'), query.get('to')), id);
});
