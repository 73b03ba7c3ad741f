import Joi from 'joi';
import { check, reads } from '../../../../server/http/http.ts';
import { pagesOf } from '../../../../server/kits/index.ts';

const text = Joi.string().max(200);
const schema = Joi.object<{ search?: string; category?: string; brand?: string }>({
  search: text.allow(''),
  category: text,
  brand: text,
});

/** Pages of the marketplace's catalogue (?search, category, brand). */
export const GET = reads(({ accountId, query }) =>
  pagesOf(accountId, check(schema, Object.fromEntries(query))),
);
