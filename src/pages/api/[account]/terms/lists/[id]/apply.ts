import Joi from 'joi';
import { numberIn, writes } from '../../../../../../server/http/http.ts';
import { applyList } from '../../../../../../server/terms/index.ts';

/** Puts what is missing of the list in its campaigns onto the sheet. */
export const POST = writes(Joi.object({}), ({ accountId, context }) =>
  applyList(accountId, numberIn(context, 'id', 'list')),
);
