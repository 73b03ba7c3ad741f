import type { FileKind, PackageAbout, PackageResult } from '../../answers/imports.ts';
import { createHash } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import Joi from 'joi';
import { nameEmptyAccount } from '../account/queries.ts';
import { filesOf } from '../account/files.ts';
import { getAccount } from '../account/account.ts';
import type { Database } from '../db/connection.ts';
import { isUntouched, stateTables, toldTables } from '../account/state.queries.ts';
import { keepPayload } from '../jobs/queries.ts';
import { restoreFile } from './state.ts';
import { ServiceError } from '../errors.ts';
import { afterFigures } from '../round/learning.ts';
import { keepBlocks } from '../facts/keep.ts';
import type { JobContext } from '../jobs/jobs.ts';
import { withArchive } from './files/archive.ts';
import { inspectFile, loadFile } from './guarded.ts';
import { mapHeaders, missingColumns } from './files/columns.ts';
import { fileKindNames, fileKinds } from './kinds/index.ts';

/** Data Packages: zips with `datapackage.json`, which names the CSV files beside it and their kinds. */

const description = Joi.object<PackageAbout>({
  title: Joi.string().max(200).default('Data package'),
  currency: Joi.string()
    .pattern(/^[A-Z]{3}$/)
    .allow(null)
    .default(null),
  origin: Joi.string().uuid().allow(null).default(null),
  resources: Joi.array()
    .items(
      Joi.object({
        name: Joi.string().required(),
        path: Joi.string()
          .pattern(/^[\w][\w./-]*$/)
          .required(),
        kind: Joi.string()
          .valid(...fileKindNames, 'account')
          .required(),
        hash: Joi.string()
          .pattern(/^sha256:[0-9a-f]{64}$/)
          .allow(null)
          .default(null),
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
      origin: about.origin,
      resources: about.resources.map(({ name, path: at, kind, hash }) => ({ name, path: at, kind, hash })),
    };
  });
}

/** Reads every part that has a hash and compares: what was changed on its way is told before anything is loaded. */
async function checkHashes(path: string, fileName: string, { resources }: PackageAbout): Promise<void> {
  await withArchive(path, async ({ entries, open }) => {
    for (const { path: at, hash } of resources) {
      if (hash === null) continue;
      const sum = createHash('sha256');
      for await (const chunk of await open(entries.get(at)!)) sum.update(chunk as Buffer);
      if (`sha256:${sum.digest('hex')}` === hash) continue;
      const message = `Its part ${at} is not what was exported: it was changed or damaged. Nothing was loaded.`;
      throw new ServiceError(422, 'bad_package', message, { file: fileName });
    }
  });
}

/**
 * What of a package goes into which account. `restore`: an account that nothing was ever loaded into becomes the one that
 * was exported. `again`: the account itself gets its reports again, its ledger stands. `merge`: another account's reports
 * and lines come to what is there.
 */
type Way = 'restore' | 'again' | 'merge';

/** Kinds that an account's own state tells better. */
const toldByState: readonly string[] = ['structure', 'products', 'goals', 'changes'];

async function wayOf(sql: Database, accountId: number, about: PackageAbout): Promise<Way> {
  const account = await getAccount(sql, accountId);
  if (about.origin !== null && about.origin === account.origin) return 'again';
  const hasState = about.resources.some(({ kind }) => kind === 'account');
  return hasState && (await isUntouched(sql, accountId)) ? 'restore' : 'merge';
}

/** The job behind a package: part by part, each a load of its own; parts without rows are passed over. */
export async function runLoadPackage({ sql, job, progress }: JobContext): Promise<PackageResult> {
  const { path, fileName, way: begun } = job.payload as { path: string; fileName: string; way?: Way };
  const about = await inspectPackage(path, fileName);
  if (!about) throw new ServiceError(422, 'bad_package', 'This is no data package.', { file: fileName });
  await progress({ doing: 'checking', step: 0, total: about.resources.length }, true);
  await checkHashes(path, fileName, about);
  // Begun again after a restart, it goes on in the way it began.
  const way = begun ?? (await wayOf(sql, job.account_id, about));
  await keepPayload(sql, job, { ...job.payload, way });
  const folder = join(filesOf(job.account_id), `package-${job.job_id}`);
  await mkdir(folder, { recursive: true });
  const parts: PackageResult['parts'] = [];
  const unpack = async (at: string, name: string) => {
    const file = join(folder, name);
    await withArchive(path, async ({ entries, open }) =>
      pipeline(await open(entries.get(at)!), createWriteStream(file)),
    );
    return file;
  };
  const restored = async (tables: readonly string[]) => {
    const state = about.resources.find(({ kind }) => kind === 'account')!;
    await restoreFile(sql, job.account_id, await unpack(state.path, 'account.jsonl'), tables, fileName);
  };
  const isLoaded = ({ kind }: PackageAbout['resources'][number]) =>
    kind !== 'account' &&
    !(way === 'restore' && toldByState.includes(kind)) &&
    !(way === 'again' && kind === 'changes');
  try {
    if (way === 'restore') await restored(stateTables);
    else await nameEmptyAccount(sql, job.account_id, about.title, about.currency);
    for (const resource of about.resources.filter(isLoaded)) {
      const step = { doing: resource.name, step: parts.length, total: about.resources.length };
      await progress(step, true);
      const loaded = await loadPart(resource, await unpack(resource.path, 'part.csv'));
      const { rowsRead = 0, rowsLoaded = 0, rowsRejected = 0, rowsTotals = 0 } = loaded ?? {};
      parts.push({ name: resource.name, rowsRead, rowsLoaded, rowsRejected, rowsTotals });
    }
    // What loading wrote of itself gives way to what was told; what was learned came with the rest.
    if (way === 'restore') await restored(toldTables);
    else await afterFigures(sql, job.account_id);
    keepBlocks(sql, job.account_id);
    return { parts };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }

  async function loadPart({ kind: named, path: at }: PackageAbout['resources'][number], file: string) {
    const kind = named as FileKind;
    const name = `${fileName}: ${at}`;
    let layout;
    try {
      layout = await inspectFile(file, name, { kind });
    } catch (error) {
      if (error instanceof ServiceError && error.code === 'no_rows') return null;
      throw error;
    }
    const mapping = mapHeaders(fileKinds[kind].columns, layout.headers);
    const missing = missingColumns(fileKinds[kind].columns, mapping);
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
