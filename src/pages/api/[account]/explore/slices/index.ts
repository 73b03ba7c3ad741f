import Joi from 'joi';
import type { SliceBody } from '../../../../../core/explore/slices.ts';
import { tableKeys, saveSlice, slicesOf } from '../../../../../server/explore/index.ts';
import { readsKept, writes } from '../../../../../server/http/http.ts';

const { level, columns, where, sort, descending } = tableKeys;
const schema = Joi.object<{ name: string; body: SliceBody }>({
  name: Joi.string().trim().min(1).max(80).required(),
  body: Joi.object({ level, columns, where, sort, descending }).required(),
});

/** All slices: those that come with Mowing, then the saved ones. */
export const GET = readsKept(({ accountId }) => slicesOf(accountId));

/** Saves a slice under its name. */
export const POST = writes(schema, ({ accountId, body: { name, body } }) => saveSlice(accountId, name, body));
