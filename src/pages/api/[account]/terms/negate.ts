import Joi from 'joi';
import { writes } from '../../../../server/http.ts';
import { windowOf } from '../../../../server/round/index.ts';
import { sku, windowKeys, words, type WindowCall } from '../../../../server/terms/door.ts';
import { negateWords, type WordScope } from '../../../../server/terms/words.ts';

const schema = Joi.object<WindowCall & { sku: string | null; words: string[]; scope: WordScope }>({
  ...windowKeys,
  sku,
  words: words.required(),
  scope: Joi.string().valid('ad_group', 'campaign', 'product').default('campaign'),
});

/** Puts negative phrases onto the sheet. */
export const POST = writes(schema, async ({ accountId, body }) =>
  negateWords(accountId, await windowOf(accountId, body.from, body.to), body.sku, body.words, body.scope),
);
