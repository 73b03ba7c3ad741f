import type { DateOrder, DecimalMark, LoadResult } from '../../src/answers/imports.ts';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { insertAccount } from '../../src/server/account/queries.ts';
import { config } from '../../src/server/config.ts';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { migrate } from '../../src/server/db/migrate.ts';
import { inspectFile, type Wanted } from '../../src/server/imports/inspect.ts';
import { loadFile } from '../../src/server/imports/load.ts';
import { makeDatabase } from './stack.ts';

/** What is chosen for a file; the rest as it is recognised. */
export interface Chosen extends Wanted {
  dateOrder?: DateOrder;
  decimalMark?: DecimalMark;
  whole?: boolean;
}

export interface Importer {
  sql: Database;
  /** Writes a file and says where it lies. */
  put: (name: string, content: string | Buffer) => string;
  /** Loads a file that lies there already. */
  loadPath: (path: string, chosen?: Chosen) => Promise<LoadResult>;
  load: (content: string | Buffer, chosen?: Chosen) => Promise<LoadResult>;
}

/** The importer itself on an empty account in a database of its own. */
export async function startImporter(): Promise<Importer> {
  const folder = mkdtempSync(join(tmpdir(), 'mowing-'));
  config.dataDir = folder;
  const url = await makeDatabase();
  await migrate(url);
  const sql = connect(url);
  const about = { name: 'Files', currency: 'EUR', time_zone: 'UTC', source: 'files' };
  const accountId = await insertAccount(sql, about, 0.3);
  let files = 0;
  const put: Importer['put'] = (name, content) => {
    const path = join(folder, `${files++}-${name}`);
    writeFileSync(path, content);
    return path;
  };
  const loadPath: Importer['loadPath'] = async (path, { dateOrder, decimalMark, whole, ...wanted } = {}) => {
    const seen = await inspectFile(path, 'file.csv', wanted);
    const order = {
      accountId,
      jobId: null,
      source: 'file',
      path,
      fileName: 'file.csv',
      layout: seen,
      choices: {
        kind: seen.kind!,
        mapping: seen.mapping,
        dateOrder: dateOrder ?? seen.dateOrders[0] ?? 'ymd',
        decimalMark: decimalMark ?? seen.decimalMarks[0] ?? '.',
      },
      asOf: null,
      whole: whole ?? false,
    } as const;
    return loadFile(sql, order, new Date('2026-11-21T10:00:00Z'), () => undefined);
  };
  const load: Importer['load'] = (content, chosen) => loadPath(put('file.csv', content), chosen);
  return { sql, put, loadPath, load };
}
