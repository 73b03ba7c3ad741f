import Joi from 'joi';
import { reads, writes } from '../../../../../server/http/http.ts';
import { dropKit, editKit, kitEdit, kitOf } from '../../../../../server/kits/index.ts';

/** One kit as it stands. */
export const GET = reads(({ accountId, context }) => kitOf(accountId, context.params.id ?? ''));

/** Keeps an edit of the version that its editor saw. */
export const PUT = writes(kitEdit, ({ accountId, body, context }) =>
  editKit(accountId, context.params.id ?? '', body.version, body.body),
);

export const DELETE = writes(Joi.object({}), ({ accountId, context }) =>
  dropKit(accountId, context.params.id ?? ''),
);
