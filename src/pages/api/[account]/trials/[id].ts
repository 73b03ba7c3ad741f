import Joi from 'joi';
import { numberIn, writes } from '../../../../server/http/http.ts';
import { actOnTrial, dropTrial, trialActSchema } from '../../../../server/trials/index.ts';

/** Keeps what was tried, takes it back, lets it go on, or takes such a decision back. */
export const POST = writes(trialActSchema, ({ accountId, body, context }) =>
  actOnTrial(accountId, numberIn(context, 'id', 'trial'), body),
);

/** Takes away a trial that was not sent; its lines stay on the sheet. */
export const DELETE = writes(Joi.object({}), ({ accountId, context }) =>
  dropTrial(accountId, numberIn(context, 'id', 'trial')),
);
