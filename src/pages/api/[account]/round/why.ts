import { windowOf } from '../../../../server/account/index.ts';
import { readsKept } from '../../../../server/http/http.ts';
import { whyOf } from '../../../../server/round/index.ts';

/** One finding with its sentence, working, season, windows and relations (?key&from&to). */
export const GET = readsKept(async ({ accountId, query }) => {
  const window = await windowOf(accountId, query.get('from'), query.get('to'));
  return whyOf(accountId, window, query.get('key') ?? '');
});
