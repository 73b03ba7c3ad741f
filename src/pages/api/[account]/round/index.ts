import { jsonText, reads } from '../../../../server/http.ts';
import { roundOf, windowOf } from '../../../../server/round/index.ts';

/** Findings for a window (?from&to, both days included), worth most first. */
export const GET = reads(async ({ accountId, query }) => {
  const window = await windowOf(accountId, query.get('from'), query.get('to'));
  return jsonText(await roundOf(accountId, window));
});
