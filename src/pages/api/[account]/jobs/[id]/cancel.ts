import Joi from 'joi';
import { db } from '../../../../../server/db/connection.ts';
import { ServiceError } from '../../../../../server/errors.ts';
import { writes } from '../../../../../server/http/http.ts';
import { jobOf, cancelJob } from '../../../../../server/jobs/index.ts';

export const POST = writes(Joi.object({}), async ({ accountId, context }) => {
  const job = await jobOf(accountId, context.params.id);
  if (job.kind === 'send') {
    throw new ServiceError(
      409,
      'not_cancellable',
      'A sheet on its way is not cancelled: revert it afterwards.',
    );
  }
  if (!(await cancelJob(db(), accountId, job.job_id)))
    throw new ServiceError(409, 'finished', 'This job is finished already.');
});
