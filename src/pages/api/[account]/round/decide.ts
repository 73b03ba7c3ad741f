import Joi from 'joi';
import { writes } from '../../../../server/http/http.ts';
import { decideFindings } from '../../../../server/round/index.ts';

const schema = Joi.object<{ keys: string[]; decision: 'skipped' | 'later' | null; days: number }>({
  keys: Joi.array().items(Joi.string()).min(1).max(60_000).required(),
  decision: Joi.string().valid('skipped', 'later').allow(null).required(),
  days: Joi.number().integer().min(1).max(90).default(7),
});

/** Skips findings, puts them off for some days, or (null) takes that back. */
export const POST = writes(schema, ({ accountId, body }) =>
  decideFindings(accountId, body.keys, body.decision, body.days),
);
