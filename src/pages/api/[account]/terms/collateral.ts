import { windowOf } from '../../../../server/account/index.ts';
import Joi from 'joi';
import { asksKept } from '../../../../server/http/http.ts';
import { sku, windowKeys, type WindowCall, collateralOf } from '../../../../server/terms/index.ts';

const schema = Joi.object<WindowCall & { sku: string | null; words: string }>({
  ...windowKeys,
  sku,
  words: Joi.string().max(400).required(),
});

/** What a negative phrase would block: terms with what they sold, keywords in use, where it would stand. */
export const POST = asksKept(schema, async ({ accountId, body }) =>
  collateralOf(accountId, await windowOf(accountId, body.from, body.to), body.sku, body.words),
);
