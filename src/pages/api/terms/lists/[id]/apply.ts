import Joi from 'joi';
import { writes } from '../../../../../server/http.ts';
import { applyList } from '../../../../../server/terms/negatives.ts';

/** Puts what is missing of the list in its campaigns onto the sheet. */
export const POST = writes(Joi.object({}), ({ accountId, context }) =>
  applyList(accountId, Number(context.params.id)),
);
