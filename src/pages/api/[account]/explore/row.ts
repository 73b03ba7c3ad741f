import { windowOf } from '../../../../server/account/index.ts';
import Joi from 'joi';
import { rowOf } from '../../../../server/explore/index.ts';
import { check, readsKept } from '../../../../server/http/http.ts';

const schema = Joi.object<{ level: 'targets' | 'terms'; key: string }>({
  level: Joi.string().valid('targets', 'terms').required(),
  key: Joi.string()
    .pattern(/^\d+(:\d+)?$/)
    .required(),
});

/** One target or term: what is believed of it, its season, windows and relations (?level&key&from&to). */
export const GET = readsKept(async ({ accountId, query }) => {
  const { level, key } = check(schema, { level: query.get('level'), key: query.get('key') });
  const window = await windowOf(accountId, query.get('from'), query.get('to'));
  return rowOf(accountId, level, key, window);
});
