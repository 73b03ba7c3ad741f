import Joi from 'joi';
import { takeBackGoals } from '../../../../../server/goals/index.ts';
import { numberIn, writes } from '../../../../../server/http/http.ts';

/** Brings what a file of goals changed back to what it was; what was changed since stays. */
export const POST = writes(Joi.object({}), ({ accountId, context }) =>
  takeBackGoals(accountId, numberIn(context, 'id', 'import')),
);
