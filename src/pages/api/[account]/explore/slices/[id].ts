import Joi from 'joi';
import { removeSlice } from '../../../../../server/explore/index.ts';
import { numberIn, writes } from '../../../../../server/http/http.ts';

/** Removes a saved slice. */
export const DELETE = writes(Joi.object({}), ({ accountId, context }) =>
  removeSlice(accountId, String(numberIn(context, 'id', 'slice'))),
);
