import { windowOf } from '../../../../server/account/index.ts';
import Joi from 'joi';
import { asksKept } from '../../../../server/http/http.ts';
import { windowKeys, type WindowCall, coverageOf } from '../../../../server/terms/index.ts';

const schema = Joi.object<WindowCall & { term: string }>({
  ...windowKeys,
  term: Joi.string().allow('').max(5000).required(),
});

/** What the account would do with a term: what catches and blocks it, in which order and why. */
export const POST = asksKept(schema, async ({ accountId, body }) =>
  coverageOf(accountId, await windowOf(accountId, body.from, body.to), body.term),
);
