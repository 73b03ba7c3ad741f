import Joi from 'joi';
import { db } from '../../../../server/db/connection.ts';
import { reads, writes } from '../../../../server/http/http.ts';
import {
  startLoad,
  type LoadCall,
  fileKindNames,
  fileKinds,
  freshness,
  latestImports,
} from '../../../../server/imports/index.ts';

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

export const GET = reads(async ({ accountId }) => ({
  imports: await latestImports(db(), accountId, 60),
  freshness: await freshness(db(), accountId),
  kinds: fileKinds,
}));

/** Starts loading a file that was sent before. */
export const POST = writes(schema, async ({ accountId, body }) => ({
  jobId: await startLoad(accountId, body),
}));
