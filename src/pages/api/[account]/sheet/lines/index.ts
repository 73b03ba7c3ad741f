import Joi from 'joi';
import {
  pageWanted,
  openPage,
  removeOpenLines,
  restoreOpenLines,
} from '../../../../../server/changes/index.ts';
import { readsKept, writes } from '../../../../../server/http/http.ts';

/** A page of the open sheet. */
export const GET = readsKept(({ accountId, query }) => {
  const { view, from, count } = pageWanted(query);
  return openPage(accountId, view, from, count);
});

const schema = Joi.object<{ lineIds: number[]; back: boolean }>({
  lineIds: Joi.array().items(Joi.number().integer()).min(1).max(60_000).required(),
  back: Joi.boolean().default(false),
});

/** Removes lines from the open sheet, or (back) puts them on again. */
export const POST = writes(schema, async ({ accountId, body }) => ({
  lines: await (body.back ? restoreOpenLines : removeOpenLines)(accountId, body.lineIds),
}));
