import { check, readsKept, writes } from '../../../../server/http/http.ts';
import { goalSchema, goalScope, goalsOf, removeGoal, setGoal } from '../../../../server/goals/index.ts';
import Joi from 'joi';

export const GET = readsKept(({ accountId }) => goalsOf(accountId));

/** Says something of a goal: targets and margins as shares, money in micros; null leaves it to the wider scope. */
export const PUT = writes(goalSchema, ({ accountId, body }) => setGoal(accountId, body));

/** Removes an override (?scope&key). */
export const DELETE = writes(Joi.object({}), ({ accountId, query }) => {
  const where = check(
    Joi.object({ scope: goalScope, key: Joi.string().required() }),
    Object.fromEntries(query),
  ) as {
    scope: string;
    key: string;
  };
  return removeGoal(accountId, where.scope, where.key);
});
