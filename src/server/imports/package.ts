import { createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import Joi from 'joi';
import { nameEmptyAccount } from '../account/queries.ts';
import { filesOf } from '../account/files.ts';
import { ServiceError } from '../errors.ts';
import { afterFigures } from '../round/learning.ts';
import { keepBlocks } from '../facts/keep.ts';
import type { JobContext } from '../jobs/index.ts';
import { withArchive } from './archive.ts';
import { inspectFile, loadFile } from './guarded.ts';
import { fileKindNames, mapHeaders, missingColumns, type FileKind } from './kinds.ts';

/** Data Packages: zips with `datapackage.json`, which names the CSV files beside it and their kinds. */

export interface PackageAbout {
  title: string;
  currency: string | null;
  resources: { name: string; path: string; kind: FileKind }[];
}

const description = Joi.object<PackageAbout>({
  title: Joi.string().max(200).default('Data package'),
  currency: Joi.string()
    .pattern(/^[A-Z]{3}$/)
    .allow(null)
    .default(null),
  resources: Joi.array()
    .items(
      Joi.object({
        name: Joi.string().required(),
        path: Joi.string()
          .pattern(/^[\w][\w./-]*$/)
          .required(),
        kind: Joi.string()
          .valid(...fileKindNames)
          .required(),
      }).unknown(true),
    )
    .min(1)
    .required(),
}).unknown(true);

const largestDescription = 4 << 20;

/** What a package says of itself; null for a zip that is none. */
export async function inspectPackage(path: string, fileName: string): Promise<PackageAbout | null> {
  return withArchive(path, async ({ entries, open }) => {
    const entry = entries.get('datapackage.json');
    if (!entry) return null;
    const fail = (message: string) => new ServiceError(422, 'bad_package', message, { file: fileName });
    if (entry.uncompressedSize > largestDescription) throw fail('Its datapackage.json is too large.');
    const chunks: Buffer[] = [];
    for await (const chunk of await open(entry)) chunks.push(chunk as Buffer);
    let value: unknown;
    try {
      value = JSON.parse(Buffer.concat(chunks).toString());
    } catch {
      throw fail('Its datapackage.json is no JSON.');
    }
    const { error, value: about } = description.validate(value);
    if (error) throw fail(`Its datapackage.json cannot be followed: ${error.message}.`);
    const missing = about.resources.find((resource) => !entries.has(resource.path));
    if (missing) throw fail(`It names ${missing.path}, which is not in it.`);
    return {
      title: about.title,
      currency: about.currency,
      resources: about.resources.map(({ name, path: at, kind }) => ({ name, path: at, kind })),
    };
  });
}

export interface PackageResult {
  parts: { name: string; rowsRead: number; rowsLoaded: number; rowsRejected: number; rowsTotals: number }[];
}

/** The job behind a package: part by part, each a load of its own; parts without rows are passed over. */
export async function runLoadPackage({ sql, job, progress }: JobContext): Promise<PackageResult> {
  const { path, fileName } = job.payload as { path: string; fileName: string };
  const about = await inspectPackage(path, fileName);
  if (!about) throw new ServiceError(422, 'bad_package', 'This is no data package.', { file: fileName });
  const folder = join(filesOf(job.account_id), `package-${job.job_id}`);
  await mkdir(folder, { recursive: true });
  const parts: PackageResult['parts'] = [];
  try {
    await nameEmptyAccount(sql, job.account_id, about.title, about.currency);
    for (const resource of about.resources) {
      const step = { doing: resource.name, step: parts.length, total: about.resources.length };
      await progress(step, true);
      const file = join(folder, 'part.csv');
      await withArchive(path, async ({ entries, open }) =>
        pipeline(await open(entries.get(resource.path)!), createWriteStream(file)),
      );
      const loaded = await loadPart(resource, file);
      const { rowsRead = 0, rowsLoaded = 0, rowsRejected = 0, rowsTotals = 0 } = loaded ?? {};
      parts.push({ name: resource.name, rowsRead, rowsLoaded, rowsRejected, rowsTotals });
    }
    await afterFigures(sql, job.account_id);
    keepBlocks(sql, job.account_id);
    return { parts };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }

  async function loadPart({ kind, path: at }: PackageAbout['resources'][number], file: string) {
    const name = `${fileName}: ${at}`;
    let layout;
    try {
      layout = await inspectFile(file, name, { kind });
    } catch (error) {
      if (error instanceof ServiceError && error.code === 'no_rows') return null;
      throw error;
    }
    const mapping = mapHeaders(kind, layout.headers);
    const missing = missingColumns(kind, mapping);
    if (missing.length > 0) {
      const message = `${at} has no column ${missing.join(', ')}.`;
      throw new ServiceError(422, 'missing_columns', message, { file: fileName });
    }
    const order = {
      accountId: job.account_id,
      jobId: job.job_id,
      source: 'file',
      path: file,
      fileName: name,
      layout,
      choices: { kind, mapping, dateOrder: 'ymd', decimalMark: '.' } as const,
      asOf: null,
      whole: false,
    };
    return loadFile(order, new Date(), (done) => progress({ ...done }));
  }
}
