import Joi from 'joi';
import { sendSheet } from '../../../../server/changes/index.ts';
import { writes } from '../../../../server/http/http.ts';
import { marketplaceOf } from '../../../../server/marketplace/index.ts';

const schema = Joi.object<{ lines?: number }>({ lines: Joi.number().integer().min(0) });

/** Sends the open sheet; with the number of lines that its sender saw, only if it still holds as many. */
export const POST = writes(schema, async ({ accountId, body }) => {
  await marketplaceOf(accountId);
  return sendSheet(accountId, body.lines);
});
