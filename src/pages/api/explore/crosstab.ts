import Joi from 'joi';
import { tableKeys } from '../../../server/explore/door.ts';
import { crossTabOf, type TableRequest } from '../../../server/explore/index.ts';
import { dimensions, type Cut } from '../../../server/explore/tabulate.ts';
import { asks } from '../../../server/http.ts';

const dimension = Joi.string()
  .valid(...dimensions)
  .required();
const { within, where, window, comparison } = tableKeys;

const schema = Joi.object<Pick<TableRequest, 'within' | 'where' | 'window' | 'comparison'> & Cut>({
  within,
  where,
  window,
  comparison,
  rows: dimension,
  columns: dimension.invalid(Joi.ref('rows')),
  separator: Joi.string().allow('').max(5).default(''),
  part: Joi.number().integer().min(0).max(20).default(0),
});

/** Sums by two dimensions, with totals both ways; every ratio is for the caller to take from the sums of its cell. */
export const POST = asks(schema, ({ accountId, body }) => crossTabOf(accountId, body, body));
