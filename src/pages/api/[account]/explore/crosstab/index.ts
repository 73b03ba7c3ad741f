import Joi from 'joi';
import { crossTabKeys, type CrossTabCall, crossTabOf } from '../../../../../server/explore/index.ts';
import { asksKept } from '../../../../../server/http/http.ts';

const schema = Joi.object<CrossTabCall>(crossTabKeys);

/** Sums by two dimensions, with totals both ways; every ratio is for the caller to take from the sums of its cell. */
export const POST = asksKept(schema, ({ accountId, body }) => crossTabOf(accountId, body, body));
