import Joi from 'joi';
import { undoGroups } from '../../../../server/changes/index.ts';
import { writes } from '../../../../server/http/http.ts';

const schema = Joi.object<{ groups: string[]; back: boolean }>({
  groups: Joi.array().items(Joi.string()).min(1).max(60_000).required(),
  back: Joi.boolean().default(false),
});

/** Takes what was accepted off the open sheet, or (back) puts it on again. */
export const POST = writes(schema, async ({ accountId, body }) => ({
  lines: await undoGroups(accountId, body.groups, body.back),
}));
