import { createHash } from 'node:crypto';
import { createReadStream, existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { cp } from 'node:fs/promises';
import { join, relative } from 'node:path';
import postgres from 'postgres';
import { runTool } from './packages.ts';

/**
 * Backups: a folder with the database as `pg_dump` writes it, the files of all accounts, and `backup.json` with the
 * checksum of each and the sums that a restored database must have again.
 */

interface Manifest {
  made: string;
  /** Checksums (SHA-256) by path within the folder. */
  files: Record<string, string>;
  /** Where the files lay: uploads know their place by it. */
  filesRoot: string;
  /** Rows and, where there is money, spend, of every table of accounts. */
  sums: Record<string, string>;
}

async function checksum(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(path)) hash.update(chunk as Buffer);
  return hash.digest('hex');
}

async function checksums(folder: string): Promise<Record<string, string>> {
  const names = readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => relative(folder, join(entry.parentPath, entry.name)))
    .filter((name) => name !== 'backup.json')
    .sort();
  const all: Record<string, string> = {};
  for (const name of names) all[name] = await checksum(join(folder, name));
  return all;
}

/** Rows of every table that is kept by account, with its spend where it has one. */
export async function sumsOf(databaseUrl: string): Promise<Record<string, string>> {
  const sql = postgres(databaseUrl, { max: 1, onnotice: () => undefined });
  try {
    const tables = await sql<{ name: string; spends: boolean }[]>`
      select c.table_name as name, bool_or(c.column_name = 'spend') as spends
      from information_schema.columns c join information_schema.tables t using (table_schema, table_name)
      where c.table_schema = 'public' and t.table_type = 'BASE TABLE'
        and not exists (select 1 from pg_inherits i where i.inhrelid = to_regclass(c.table_name))
      group by 1 having bool_or(c.column_name = 'account_id') order by 1`;
    const sums: Record<string, string> = {};
    for (const { name, spends } of tables) {
      const what = spends
        ? sql`count(*) || ' rows, spend ' || coalesce(sum(spend), 0)`
        : sql`count(*) || ' rows'`;
      const [row] = await sql<{ told: string }[]>`select ${what} as told from ${sql(name)}`;
      sums[name] = row!.told;
    }
    return sums;
  } finally {
    await sql.end();
  }
}

/** Writes a backup into a new folder. Database and files are those of one moment each; uploads may be newer. */
export async function backup(databaseUrl: string, files: string, folder: string): Promise<Manifest> {
  if (existsSync(folder) && readdirSync(folder).length > 0)
    throw new Error(`${folder} holds something already.`);
  mkdirSync(folder, { recursive: true });
  const sums = await sumsOf(databaseUrl);
  runTool('pg_dump', [
    '--format=custom',
    '--no-owner',
    `--file=${join(folder, 'database.dump')}`,
    databaseUrl,
  ]);
  if (existsSync(files)) await cp(files, join(folder, 'files'), { recursive: true });
  const manifest: Manifest = {
    made: new Date().toISOString(),
    filesRoot: files,
    files: await checksums(folder),
    sums,
  };
  writeFileSync(join(folder, 'backup.json'), `${JSON.stringify(manifest, null, 2)}\n`);
  return manifest;
}

/** Brings a backup into an empty database and an empty folder; throws, and says where, when something is not as it was. */
export async function restore(folder: string, databaseUrl: string, files: string): Promise<Manifest> {
  const manifest = JSON.parse(readFileSync(join(folder, 'backup.json'), 'utf8')) as Manifest;
  const found = await checksums(folder);
  for (const [name, sum] of Object.entries(manifest.files)) {
    if (found[name] === undefined) throw new Error(`${name} is missing from the backup.`);
    if (found[name] !== sum) throw new Error(`${name} is not as it was written: its checksum differs.`);
  }
  const sql = postgres(databaseUrl, { max: 1, onnotice: () => undefined });
  const [held] = await sql<{ tables: number }[]>`
    select count(*)::int as tables from pg_tables where schemaname = 'public'`;
  await sql.end();
  if (held!.tables > 0) throw new Error('The database to restore into is not empty.');
  if (existsSync(files) && readdirSync(files).length > 0) throw new Error(`${files} is not empty.`);
  runTool('pg_restore', [
    '--no-owner',
    '--exit-on-error',
    `--dbname=${databaseUrl}`,
    join(folder, 'database.dump'),
  ]);
  if (existsSync(join(folder, 'files'))) await cp(join(folder, 'files'), files, { recursive: true });
  const restored = postgres(databaseUrl, { max: 1, onnotice: () => undefined });
  await restored`update upload set path = replace(path, ${manifest.filesRoot}, ${files})`;
  await restored.end();
  const sums = await sumsOf(databaseUrl);
  for (const [name, told] of Object.entries(manifest.sums))
    if (sums[name] !== told)
      throw new Error(`${name} has ${sums[name] ?? 'nothing'} after restoring, and had ${told}.`);
  return manifest;
}
