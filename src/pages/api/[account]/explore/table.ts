import Joi from 'joi';
import { tableKeys, tableOf, type TableRequest } from '../../../../server/explore/index.ts';
import { asksKept } from '../../../../server/http/http.ts';

const schema = Joi.object<TableRequest & { offset: number; limit: number }>({
  ...tableKeys,
  offset: Joi.number().integer().min(0).default(0),
  limit: Joi.number().integer().min(0).max(2000).default(200),
});

/** Rows of one level that match, sorted; with the number, totals and spend of all of them. Changes nothing. */
export const POST = asksKept(schema, ({ accountId, body: { offset, limit, ...request } }) =>
  tableOf(accountId, request, offset, limit),
);
