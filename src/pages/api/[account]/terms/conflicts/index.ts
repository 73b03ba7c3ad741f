import { windowOf } from '../../../../../server/account/index.ts';
import Joi from 'joi';
import { readsKept, writes } from '../../../../../server/http/http.ts';
import {
  windowKeys,
  type WindowCall,
  acceptConflicts,
  conflictsOf,
} from '../../../../../server/terms/index.ts';

/** What stands in its own way, with what it costs a week (?from&to). */
export const GET = readsKept(async ({ accountId, query }) =>
  conflictsOf(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);

const schema = Joi.object<WindowCall & { keys: string[] }>({
  ...windowKeys,
  keys: Joi.array().items(Joi.string()).min(1).max(20_000).required(),
});

/** Puts the repairs of conflicts onto the sheet. */
export const POST = writes(schema, async ({ accountId, body }) =>
  acceptConflicts(accountId, await windowOf(accountId, body.from, body.to), body.keys),
);
