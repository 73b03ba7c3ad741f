import { windowOf } from '../../../../server/account/index.ts';
import Joi from 'joi';
import { writes } from '../../../../server/http/http.ts';
import {
  sku,
  windowKeys,
  words,
  type WindowCall,
  negateWords,
  type WordScope,
} from '../../../../server/terms/index.ts';

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
