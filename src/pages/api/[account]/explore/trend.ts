import Joi from 'joi';
import type { Window } from '../../../../core/metrics/days.ts';
import { tableKeys, trendOf, type TableRequest } from '../../../../server/explore/index.ts';
import type { Only } from '../../../../server/explore/index.ts';
import { asksKept } from '../../../../server/http/http.ts';

const schema = Joi.object<TableRequest & { span: Window; only: Only | null }>({
  ...tableKeys,
  only: Joi.object({
    keys: Joi.array().items(Joi.string()).max(300_000).required(),
    others: Joi.boolean().default(false),
  })
    .allow(null)
    .default(null),
  span: Joi.object({ from: Joi.string().required(), to: Joi.string().required() }).required(),
});

/** Sums by day of all rows that match, of some of them, or of all others. Changes nothing. */
export const POST = asksKept(schema, ({ accountId, body: { span, only, ...request } }) =>
  trendOf(accountId, request, span, only),
);
