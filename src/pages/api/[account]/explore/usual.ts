import Joi from 'joi';
import { tableKeys, usualOf, type TableRequest } from '../../../../server/explore/index.ts';
import { asksKept } from '../../../../server/http/http.ts';

const schema = Joi.object<TableRequest>({
  ...tableKeys,
  columns: Joi.array().items(Joi.string()).length(1).required(),
});

/** Quartiles of one column over the rows that match. Changes nothing. */
export const POST = asksKept(schema, ({ accountId, body }) => usualOf(accountId, body));
