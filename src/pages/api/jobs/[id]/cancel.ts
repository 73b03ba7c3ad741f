import Joi from 'joi';
import { db } from '../../../../server/db/connection.ts';
import { ServiceError } from '../../../../server/errors.ts';
import { writes } from '../../../../server/http.ts';
import { cancelJob, jobById } from '../../../../server/jobs/queries.ts';

export const POST = writes(Joi.object({}), async ({ context }) => {
  const id = context.params.id ?? '';
  const job = /^[0-9a-f-]{36}$/.test(id) ? await jobById(db(), id) : undefined;
  if (job?.kind === 'send') {
    throw new ServiceError(
      409,
      'not_cancellable',
      'A sheet on its way is not cancelled: revert it afterwards.',
    );
  }
  if (!job || !(await cancelJob(db(), id)))
    throw new ServiceError(409, 'finished', 'This job is finished already.');
});
