import Joi from 'joi';
import { stances } from '../../../../core/bids/guards.ts';
import { check, readsKept, writes } from '../../../../server/http/http.ts';
import { goalsOf, removeGoal, setGoal, type GoalCall } from '../../../../server/goals/index.ts';

const scope = Joi.string().valid('account', 'product', 'campaign').required();

const schema = Joi.object<GoalCall>({
  scope,
  key: Joi.string().allow('').default(''),
  targetAcos: Joi.number().min(0.001).max(5).required(),
  bidFloor: Joi.number().integer().min(0).allow(null).default(null),
  bidCeiling: Joi.number().integer().min(0).allow(null).default(null),
  stance: Joi.string().valid(...stances),
  aboveOne: Joi.boolean(),
});

export const GET = readsKept(({ accountId }) => goalsOf(accountId));

/** Sets a goal: target ACOS as a share, floor and ceiling in micros. */
export const PUT = writes(schema, ({ accountId, body }) => setGoal(accountId, body));

/** Removes an override (?scope&key). */
export const DELETE = writes(Joi.object({}), ({ accountId, query }) => {
  const where = check(Joi.object({ scope, key: Joi.string().required() }), Object.fromEntries(query)) as {
    scope: string;
    key: string;
  };
  return removeGoal(accountId, where.scope, where.key);
});
