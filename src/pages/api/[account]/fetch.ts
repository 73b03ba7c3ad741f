import Joi from 'joi';
import { writes } from '../../../server/http/http.ts';
import { enqueue } from '../../../server/jobs/index.ts';
import { marketplaceOf } from '../../../server/marketplace/index.ts';

/** Starts fetching structure, products and missing days from the marketplace. */
export const POST = writes(Joi.object({}), async ({ accountId }) => {
  await marketplaceOf(accountId);
  return { jobId: await enqueue(accountId, 'fetch', {}) };
});
