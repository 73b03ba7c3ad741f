import Joi from 'joi';
import { writes } from '../../../../server/http/http.ts';
import { startPackage } from '../../../../server/imports/index.ts';

const schema = Joi.object<{ uploadId: string }>({ uploadId: Joi.string().uuid().required() });

/** Starts loading a data package that was sent before. */
export const POST = writes(schema, async ({ accountId, body }) => ({
  jobId: await startPackage(accountId, body.uploadId),
}));
