import Joi from 'joi';
import { numberIn, writes } from '../../../../server/http/http.ts';
import { noteSchema, setNote } from '../../../../server/today/index.ts';

/** Changes a note, and brings one back that was removed. */
export const PUT = writes(noteSchema, ({ accountId, body, context }) =>
  setNote(accountId, numberIn(context, 'id', 'note'), body),
);

export const DELETE = writes(Joi.object({}), ({ accountId, context }) =>
  setNote(accountId, numberIn(context, 'id', 'note'), null),
);
