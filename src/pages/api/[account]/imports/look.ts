import type { FileKind } from '../../../../answers/imports.ts';
import Joi from 'joi';
import { asks } from '../../../../server/http/http.ts';
import { lookAgain, fileKindNames } from '../../../../server/imports/index.ts';

const schema = Joi.object<{ uploadId: string; sheet?: string; kind?: FileKind }>({
  uploadId: Joi.string().uuid().required(),
  sheet: Joi.string(),
  kind: Joi.string().valid(...fileKindNames),
});

/** Looks at a file that was sent before: at another sheet, or as another kind. */
export const POST = asks(schema, ({ accountId, body: { uploadId, ...wanted } }) =>
  lookAgain(accountId, uploadId, wanted),
);
