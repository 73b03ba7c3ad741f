import Joi from 'joi';
import { addDays } from '../../../core/metrics/days.ts';
import { config } from '../../../server/config.ts';
import { ServiceError } from '../../../server/errors.ts';
import { writes } from '../../../server/http/http.ts';
import { enqueue } from '../../../server/jobs/index.ts';
import { marketplaceOf } from '../../../server/marketplace/index.ts';

const schema = Joi.object<{ days: number }>({ days: Joi.number().integer().min(1).max(30).required() });

/** Demo only: lets time pass at the marketplace, then fetches. */
export const POST = writes(schema, async ({ accountId, body }) => {
  if (!config.demo) throw new ServiceError(403, 'demo_only', 'Time can be moved in the demo only.');
  const { today } = await (await marketplaceOf(accountId)).account();
  return {
    jobId: await enqueue(accountId, 'advance', { days: body.days, until: addDays(today, body.days) }),
  };
});
