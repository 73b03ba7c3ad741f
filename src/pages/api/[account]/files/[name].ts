import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { filesOf } from '../../../../server/account/index.ts';
import { notFound } from '../../../../server/errors.ts';
import { reads } from '../../../../server/http/http.ts';

/** Rejected rows of a load, to repair and load again. */
export const GET = reads(async ({ accountId, context }) => {
  const name = context.params.name ?? '';
  if (!/^rejected-[\w-]+\.csv$/.test(name)) throw notFound(`file ${name}`);
  const path = join(filesOf(accountId), name);
  await stat(path).catch(() => {
    throw notFound(`file ${name}`);
  });
  return new Response(Readable.toWeb(createReadStream(path)) as ReadableStream, {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': `attachment; filename="${name}"`,
    },
  });
});
