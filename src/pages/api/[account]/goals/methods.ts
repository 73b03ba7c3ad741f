import Joi from 'joi';
import { windowOf } from '../../../../server/account/index.ts';
import { check, readsKept } from '../../../../server/http/http.ts';
import { methodsOf, type MethodsOrder } from '../../../../server/round/index.ts';

const schema = Joi.object<MethodsOrder>({
  offset: Joi.number().integer().min(0).default(0),
  limit: Joi.number().integer().min(1).max(500).default(100),
  sort: Joi.string().valid('between', 'spend').default('between'),
  text: Joi.string().allow('').max(200).default(''),
}).unknown(true);

/** What every method proposes for every target (?from&to&offset&limit&sort&text). */
export const GET = readsKept(async ({ accountId, query }) =>
  methodsOf(
    accountId,
    await windowOf(accountId, query.get('from'), query.get('to')),
    check(schema, Object.fromEntries(query)),
  ),
);
