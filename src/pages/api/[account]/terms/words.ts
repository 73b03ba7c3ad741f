import { windowOf } from '../../../../server/account/index.ts';
import Joi from 'joi';
import { asksKept, writes } from '../../../../server/http/http.ts';
import {
  sku,
  windowKeys,
  words,
  type WindowCall,
  markRelevant,
  wordsOf,
  type WordsCall,
} from '../../../../server/terms/index.ts';
import { wordSorts } from '../../../../server/terms/index.ts';

const schema = Joi.object<WindowCall & WordsCall>({
  ...windowKeys,
  sku,
  text: Joi.string().allow('').max(400).default(''),
  only: Joi.string().valid('all', 'proposed', 'over', 'relevant').default('all'),
  sort: Joi.string()
    .valid(...wordSorts)
    .default('spend'),
  descending: Joi.boolean().default(true),
  most: Joi.number().integer().min(1).max(5000).default(2000),
});

/** Sequences of one to three words with their sums and verdicts. */
export const POST = asksKept(schema, async ({ accountId, body: { from, to, ...call } }) =>
  wordsOf(accountId, await windowOf(accountId, from, to), call),
);

/** Marks sequences relevant, so that they are never proposed, or takes the mark away. */
export const PUT = writes(
  Joi.object<{ words: string[]; relevant: boolean }>({
    words: words.required(),
    relevant: Joi.boolean().required(),
  }),
  ({ accountId, body }) => markRelevant(accountId, body.words, body.relevant),
);
