import Joi from 'joi';
import { resumeSending } from '../../../../../server/changes/index.ts';
import { numberIn, writes } from '../../../../../server/http/http.ts';

/** Goes on with a sheet whose sending stopped: nothing is applied twice. */
export const POST = writes(Joi.object({}), ({ accountId, context }) =>
  resumeSending(accountId, numberIn(context, 'id', 'sheet')),
);
