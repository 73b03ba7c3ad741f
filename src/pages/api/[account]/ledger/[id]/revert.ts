import Joi from 'joi';
import { revert } from '../../../../../server/changes/index.ts';
import { numberIn, writes } from '../../../../../server/http/http.ts';

const schema = Joi.object<{ lineIds: number[] | null }>({
  lineIds: Joi.array().items(Joi.number().integer()).min(1).allow(null).default(null),
});

/** Puts the lines that take back a sheet, or some of its lines, onto the open sheet. */
export const POST = writes(schema, ({ accountId, body, context }) =>
  revert(accountId, numberIn(context, 'id', 'sheet'), body.lineIds),
);
