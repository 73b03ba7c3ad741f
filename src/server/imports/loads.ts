import type {
  Inspection,
  Layout,
  LoadCall,
  LoadResult,
  PackagePreview,
  Preview,
} from '../../answers/imports.ts';
import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { filesOf } from '../account/files.ts';
import { db } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { keepBlocks } from '../facts/keep.ts';
import { enqueue, type JobContext } from '../jobs/jobs.ts';
import { readHead } from './files/decode.ts';
import { inspectAs, inspectFile, loadFile } from './guarded.ts';
import type { Wanted } from './inspect.ts';
import { mapHeaders, missingColumns } from './files/columns.ts';
import { fileKinds } from './kinds/index.ts';
import { afterFigures } from '../round/learning.ts';
import { inspectPackage } from './package.ts';
import { insertUpload, rememberMapping, rememberedMapping, uploadById } from './queries.ts';
import type { Choices } from './files/read.ts';

/** Files that people bring: keep, look, load. */

/** Streams an upload to disk and looks at it. */
export async function receiveFile(
  accountId: number,
  fileName: string,
  body: ReadableStream<Uint8Array> | null,
): Promise<Preview | PackagePreview> {
  if (!body) throw new ServiceError(400, 'no_body', 'The call has no body: send the file as it is.');
  const uploadId = randomUUID();
  const folder = filesOf(accountId);
  await mkdir(folder, { recursive: true });
  const path = join(folder, `upload-${uploadId}`);
  try {
    await pipeline(Readable.fromWeb(body as never), createWriteStream(path));
    const { size } = await stat(path);
    const about = (await isZip(path)) ? await inspectPackage(path, fileName) : null;
    const inspection = about ? null : await inspectFile(path, fileName);
    await insertUpload(db(), {
      account_id: accountId,
      upload_id: uploadId,
      file_name: fileName,
      path,
      bytes: size,
    });
    if (about) return { format: 'package', ...about, uploadId, fileName };
    return previewOf(accountId, uploadId, fileName, inspection!);
  } catch (error) {
    await rm(path, { force: true });
    throw error;
  }
}

async function isZip(path: string): Promise<boolean> {
  const { head } = await readHead(path, 4);
  return head[0] === 0x50 && head[1] === 0x4b;
}

async function previewOf(
  accountId: number,
  uploadId: string,
  fileName: string,
  inspection: Inspection,
): Promise<Preview> {
  const known = inspection.kind
    ? await rememberedMapping(db(), accountId, inspection.kind, inspection.headers)
    : null;
  const mapping = known?.mapping ?? inspection.mapping;
  return { ...inspection, mapping, uploadId, fileName, remembered: known !== null };
}

/** Looks at an upload again: at another sheet, or as another kind. */
export async function lookAgain(accountId: number, uploadId: string, wanted: Wanted): Promise<Preview> {
  const upload = await uploadById(db(), accountId, uploadId);
  if (!upload) throw notFound('upload of this id');
  return previewOf(
    accountId,
    uploadId,
    upload.file_name,
    await inspectFile(upload.path, upload.file_name, wanted),
  );
}

/** Starts loading a data package that was sent before. */
export async function startPackage(accountId: number, uploadId: string): Promise<string> {
  const upload = await uploadById(db(), accountId, uploadId);
  if (!upload) throw notFound('upload of this id');
  return enqueue(accountId, 'load_package', { path: upload.path, fileName: upload.file_name });
}

/** Checks what was chosen, asks what cannot be guessed, and starts the load. */
export async function startLoad(accountId: number, call: LoadCall): Promise<string> {
  const upload = await uploadById(db(), accountId, call.uploadId);
  if (!upload) throw notFound('upload of this id');
  const inspection = await inspectFile(upload.path, upload.file_name, {
    kind: call.kind,
    ...(call.sheet === undefined ? {} : { sheet: call.sheet }),
  });
  const { columns } = fileKinds[call.kind];
  const mapping = { ...mapHeaders(columns, inspection.headers), ...(call.mapping ?? {}) };
  for (const [name, at] of Object.entries(mapping)) {
    const known = columns.some((column) => column.name === name);
    if (!known || (at !== null && at >= inspection.headers.length)) {
      throw new ServiceError(422, 'bad_mapping', `The mapping names a column that is not there: ${name}.`, {
        field: name,
      });
    }
  }
  const missing = missingColumns(columns, mapping);
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
  const { format, encoding, delimiter, sheet, titleRows, headers } = inspection;
  return enqueue(accountId, 'load', {
    path: upload.path,
    fileName: upload.file_name,
    bytes: upload.bytes,
    layout: { format, encoding, delimiter, sheet, titleRows, headers },
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
  const result = await loadFile(order, new Date(), (done) =>
    progress({ ...done, total: bytes, file: fileName }),
  );
  // Of what leaves the figures as they were there is nothing to learn; a new goal gets its theta by a job of its own.
  if (fileKinds[choices.kind].leavesFigures) await enqueue(job.account_id, 'steer', {});
  else await afterFigures(sql, job.account_id);
  keepBlocks(sql, job.account_id);
  return result;
}
