import Joi from 'joi';
import { editLine, type LineEdit } from '../../../../../server/changes/index.ts';
import { numberIn, writes } from '../../../../../server/http/http.ts';

const schema = Joi.object<LineEdit>({
  newValue: Joi.string(),
  rebase: Joi.boolean(),
  version: Joi.number().integer().min(1),
});

/** Changes an open line: its new value (bids in micros), or its old value to the live one. */
export const POST = writes(schema, ({ accountId, body, context }) =>
  editLine(accountId, numberIn(context, 'line', 'line'), body),
);
