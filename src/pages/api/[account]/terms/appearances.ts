import { windowOf } from '../../../../server/account/index.ts';
import Joi from 'joi';
import { asksKept } from '../../../../server/http/http.ts';
import { sku, windowKeys, type WindowCall, appearancesOf } from '../../../../server/terms/index.ts';

const schema = Joi.object<
  WindowCall & { sku: string | null; comparison: { from: string; to: string } | null; most: number }
>({
  ...windowKeys,
  sku,
  comparison: Joi.object(windowKeys).allow(null).default(null),
  most: Joi.number().integer().min(1).max(5000).default(2000),
});

/** Terms that appeared for the first time in the window, and terms that stopped. */
export const POST = asksKept(
  schema,
  async ({ accountId, body: { from, to, comparison, sku: product, most } }) =>
    appearancesOf(accountId, await windowOf(accountId, from, to), comparison, product, most),
);
