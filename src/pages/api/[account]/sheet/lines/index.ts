import Joi from 'joi';
import { removeOpenLines, restoreOpenLines } from '../../../../../server/changes/index.ts';
import { writes } from '../../../../../server/http.ts';

const schema = Joi.object<{ lineIds: number[]; back: boolean }>({
  lineIds: Joi.array().items(Joi.number().integer()).min(1).max(60_000).required(),
  back: Joi.boolean().default(false),
});

/** Removes lines from the open sheet, or (back) puts them on again. */
export const POST = writes(schema, async ({ accountId, body }) => ({
  lines: await (body.back ? restoreOpenLines : removeOpenLines)(accountId, body.lineIds),
}));
