import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { config } from '../config.ts';
import { db } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { keepBlocks } from '../facts/keep.ts';
import { enqueue, type JobContext } from '../jobs/index.ts';
import { inspectAs, inspectFile, type Inspection, type Layout } from './inspect.ts';
import { fileKinds, mapHeaders, missingColumns, type FileKind, type Mapping } from './kinds.ts';
import { loadFile, type LoadResult } from './load.ts';
import { insertUpload, rememberMapping, rememberedMapping, uploadById } from './queries.ts';
import type { Choices } from './read.ts';
import type { DateOrder, DecimalMark } from './values.ts';

/** Files that people bring: keep, look, load. */

export interface Preview extends Inspection {
  uploadId: string;
  fileName: string;
  remembered: boolean;
}

/** Streams an upload to disk and looks at it. */
export async function receiveFile(
  accountId: number,
  fileName: string,
  body: ReadableStream<Uint8Array> | null,
): Promise<Preview> {
  if (!body) throw new ServiceError(400, 'no_body', 'The call has no body: send the file as it is.');
  const uploadId = randomUUID();
  await mkdir(config.dataDir, { recursive: true });
  const path = join(config.dataDir, `upload-${uploadId}`);
  try {
    await pipeline(Readable.fromWeb(body as never), createWriteStream(path));
    const { size } = await stat(path);
    const inspection = await inspectFile(path, fileName);
    await insertUpload(db(), {
      account_id: accountId,
      upload_id: uploadId,
      file_name: fileName,
      path,
      bytes: size,
    });
    const known = inspection.kind
      ? await rememberedMapping(db(), accountId, inspection.kind, inspection.headers)
      : null;
    const mapping = known?.mapping ?? inspection.mapping;
    return { ...inspection, mapping, uploadId, fileName, remembered: known !== null };
  } catch (error) {
    await rm(path, { force: true });
    throw error;
  }
}

export interface LoadCall {
  uploadId: string;
  kind: FileKind;
  mapping?: Mapping;
  dateOrder?: DateOrder;
  decimalMark?: DecimalMark;
}

/** Checks what was chosen, asks what cannot be guessed, and starts the load. */
export async function startLoad(accountId: number, call: LoadCall): Promise<string> {
  const upload = await uploadById(db(), accountId, call.uploadId);
  if (!upload) throw notFound('upload of this id');
  const inspection = await inspectFile(upload.path, upload.file_name);
  const mapping = { ...mapHeaders(call.kind, inspection.headers), ...(call.mapping ?? {}) };
  for (const [name, at] of Object.entries(mapping)) {
    const known = fileKinds[call.kind].some((column) => column.name === name);
    if (!known || (at !== null && at >= inspection.headers.length)) {
      throw new ServiceError(422, 'bad_mapping', `The mapping names a column that is not there: ${name}.`, {
        field: name,
      });
    }
  }
  const missing = missingColumns(call.kind, mapping);
  if (missing.length > 0) {
    const message = `Say which column holds ${missing.join(', ')}.`;
    throw new ServiceError(422, 'missing_columns', message, { file: upload.file_name, column: missing[0] });
  }
  const layout: Layout = inspection;
  const { dateOrders, decimalMarks } = await inspectAs(upload.path, layout, call.kind, mapping);
  const dateOrder = call.dateOrder ?? (dateOrders.length === 1 ? dateOrders[0] : undefined);
  if (!dateOrder && dateOrders.length > 1) {
    const message = 'The dates of this file can be read day first or month first. Say which.';
    throw new ServiceError(422, 'ambiguous_dates', message, { file: upload.file_name, column: 'date' });
  }
  const decimalMark = call.decimalMark ?? (decimalMarks.length === 1 ? decimalMarks[0] : undefined);
  if (!decimalMark) {
    const message =
      'The numbers of this file can be read with a decimal point or a decimal comma. Say which.';
    throw new ServiceError(422, 'ambiguous_numbers', message, { file: upload.file_name });
  }
  const choices: Choices = { kind: call.kind, mapping, dateOrder: dateOrder ?? 'ymd', decimalMark };
  await rememberMapping(db(), accountId, call.kind, inspection.headers, { mapping });
  const { encoding, delimiter, titleRows, headers } = inspection;
  return enqueue(accountId, 'load', {
    path: upload.path,
    fileName: upload.file_name,
    bytes: upload.bytes,
    layout: { encoding, delimiter, titleRows, headers },
    choices,
  });
}

/** The job behind a load. Begun again after a restart, it finds nothing half-done: a load is one transaction. */
export async function runLoad({ sql, job, progress }: JobContext): Promise<LoadResult> {
  const { path, fileName, bytes, layout, choices } = job.payload as {
    path: string;
    fileName: string;
    bytes: number;
    layout: Layout;
    choices: Choices;
  };
  const order = {
    accountId: job.account_id,
    jobId: job.job_id,
    source: 'file',
    path,
    fileName,
    layout,
    choices,
    asOf: null,
    whole: false,
  };
  const result = await loadFile(sql, order, new Date(), (done) =>
    progress({ ...done, total: bytes, file: fileName }),
  );
  keepBlocks(sql, job.account_id);
  return result;
}
