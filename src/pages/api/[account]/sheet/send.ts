import Joi from 'joi';
import { sendSheet } from '../../../../server/changes/index.ts';
import { writes } from '../../../../server/http/http.ts';
import { marketplaceOf } from '../../../../server/marketplace/index.ts';

const schema = Joi.object<{ lines?: number; clicksMeant?: boolean }>({
  lines: Joi.number().integer().min(0),
  clicksMeant: Joi.boolean(),
});

/**
 * Sends the open sheet; with the number of lines that its sender saw, only if it still holds as many. Where a click may
 * cost over twice its bid then, only with `clicksMeant`.
 */
export const POST = writes(schema, async ({ accountId, body }) => {
  await marketplaceOf(accountId);
  return sendSheet(accountId, body.lines, body.clicksMeant ?? false);
});
