import Joi from 'joi';
import { carryOver } from '../../../../server/changes/index.ts';
import { writes } from '../../../../server/http/http.ts';

const schema = Joi.object<{ lineIds: number[] | null; lines?: number }>({
  lineIds: Joi.array().items(Joi.number().integer()).min(1).max(60_000).allow(null).default(null),
  lines: Joi.number().integer().min(0),
});

/** Notes that lines of the open sheet were carried over by hand: those named, or all. */
export const POST = writes(schema, ({ accountId, body }) => carryOver(accountId, body.lineIds, body.lines));
