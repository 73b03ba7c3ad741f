import Joi from 'joi';
import { repairRefused } from '../../../../../server/changes/index.ts';
import { numberIn, writes } from '../../../../../server/http/http.ts';

/** Brings refused lines back onto the open sheet. */
export const POST = writes(Joi.object({}), ({ accountId, context }) =>
  repairRefused(accountId, numberIn(context, 'id', 'sheet')),
);
