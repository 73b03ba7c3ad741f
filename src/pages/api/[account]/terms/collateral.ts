import Joi from 'joi';
import { asksKept } from '../../../../server/http.ts';
import { windowOf } from '../../../../server/round/index.ts';
import { sku, windowKeys, type WindowCall } from '../../../../server/terms/door.ts';
import { collateralOf } from '../../../../server/terms/words.ts';

const schema = Joi.object<WindowCall & { sku: string | null; words: string }>({
  ...windowKeys,
  sku,
  words: Joi.string().max(400).required(),
});

/** What a negative phrase would block: terms with what they sold, keywords in use, where it would stand. */
export const POST = asksKept(schema, async ({ accountId, body }) =>
  collateralOf(accountId, await windowOf(accountId, body.from, body.to), body.sku, body.words),
);
