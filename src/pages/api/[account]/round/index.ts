import { windowOf } from '../../../../server/account/index.ts';
import Joi from 'joi';
import { check, jsonText, reads } from '../../../../server/http/http.ts';
import { roundOf } from '../../../../server/round/index.ts';

const part = Joi.object<{ offset: number; limit: number }>({
  offset: Joi.number().integer().min(0).max(1_000_000).default(0),
  limit: Joi.number().integer().min(1).max(40_000).default(40_000),
}).options({ stripUnknown: true });

/**
 * Findings for a window (?from&to, both days included), worth most first, each with its whole working; a part of them
 * by ?offset&limit.
 */
export const GET = reads(async ({ accountId, query }) => {
  const window = await windowOf(accountId, query.get('from'), query.get('to'));
  return jsonText(await roundOf(accountId, window, check(part, Object.fromEntries(query) as never)));
});
