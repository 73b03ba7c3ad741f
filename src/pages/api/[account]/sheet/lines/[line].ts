import Joi from 'joi';
import { editLine, type LineEdit } from '../../../../../server/changes/index.ts';
import { numberIn, writes } from '../../../../../server/http/http.ts';

const schema = Joi.object<LineEdit>({
  newValue: Joi.string(),
  rebase: Joi.boolean(),
  name: Joi.string().max(400).allow(''),
  version: Joi.number().integer().min(1),
});

/** Changes an open line: its new value (bids in micros), its old value to the live one, or the name of what it makes. */
export const POST = writes(schema, ({ accountId, body, context }) =>
  editLine(accountId, numberIn(context, 'line', 'line'), body),
);
