import { windowOf } from '../../../../server/account/index.ts';
import Joi from 'joi';
import { asksKept } from '../../../../server/http/http.ts';
import { sku, windowKeys, type WindowCall, likenessOf } from '../../../../server/terms/index.ts';

const schema = Joi.object<WindowCall & { sku: string | null; term: string }>({
  ...windowKeys,
  sku,
  term: Joi.string().max(5000).required(),
});

/** How like a term's words are to a product: a hint. */
export const POST = asksKept(schema, async ({ accountId, body }) => ({
  likeness: await likenessOf(accountId, await windowOf(accountId, body.from, body.to), body.sku, body.term),
}));
