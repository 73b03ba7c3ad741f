import Joi from 'joi';
import { repairRefused } from '../../../../server/changes/index.ts';
import { writes } from '../../../../server/http.ts';

/** Brings refused lines back onto the open sheet. */
export const POST = writes(Joi.object({}), ({ accountId, context }) =>
  repairRefused(accountId, Number(context.params.id) || 0),
);
