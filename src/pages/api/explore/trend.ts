import Joi from 'joi';
import type { Window } from '../../../core/metrics/days.ts';
import { tableKeys } from '../../../server/explore/door.ts';
import { trendOf, type TableRequest } from '../../../server/explore/index.ts';
import { asks } from '../../../server/http.ts';

const schema = Joi.object<TableRequest & { span: Window }>({
  ...tableKeys,
  span: Joi.object({ from: Joi.string().required(), to: Joi.string().required() }).required(),
});

/** Sums by day of all rows that match. Changes nothing. */
export const POST = asks(schema, ({ accountId, body: { span, ...request } }) =>
  trendOf(accountId, request, span),
);
