import type { LoadCall } from '../../../../answers/imports.ts';
import Joi from 'joi';
import { reads, writes } from '../../../../server/http/http.ts';
import { fileKindNames, importsOf, startLoad } from '../../../../server/imports/index.ts';

const schema = Joi.object<LoadCall>({
  uploadId: Joi.string().uuid().required(),
  sheet: Joi.string(),
  kind: Joi.string()
    .valid(...fileKindNames)
    .required(),
  mapping: Joi.object().pattern(Joi.string(), Joi.number().integer().min(0).allow(null)),
  dateOrder: Joi.string().valid('ymd', 'dmy', 'mdy'),
  decimalMark: Joi.string().valid('.', ','),
});

export const GET = reads(({ accountId }) => importsOf(accountId));

/** Starts loading a file that was sent before. */
export const POST = writes(schema, async ({ accountId, body }) => ({
  jobId: await startLoad(accountId, body),
}));
