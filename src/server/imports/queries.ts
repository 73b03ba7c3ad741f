import type { Database } from '../db/connection.ts';
import type { FileKind, Mapping } from './columns/kinds.ts';

export async function insertUpload(
  sql: Database,
  row: { account_id: number; upload_id: string; file_name: string; path: string; bytes: number },
): Promise<void> {
  await sql`insert into upload ${sql({ ...row, created_at: new Date() })}`;
}

export async function uploadById(
  sql: Database,
  accountId: number,
  uploadId: string,
): Promise<{ path: string; file_name: string; bytes: number } | undefined> {
  const [row] = await sql<{ path: string; file_name: string; bytes: number }[]>`
    select path, file_name, bytes from upload
    where account_id = ${accountId} and upload_id::text = ${uploadId}`;
  return row;
}

const headerKey = (headers: readonly string[]) => headers.join('\u001f');

/** What was chosen last time for a file with the same headers. */
export async function rememberedMapping(
  sql: Database,
  accountId: number,
  kind: FileKind,
  headers: readonly string[],
): Promise<{ mapping: Mapping } | null> {
  const [row] = await sql<{ choices: { mapping: Mapping } }[]>`
    select choices from mapping
    where account_id = ${accountId} and kind = ${kind} and headers = ${headerKey(headers)}`;
  return row?.choices ?? null;
}

export async function rememberMapping(
  sql: Database,
  accountId: number,
  kind: FileKind,
  headers: readonly string[],
  choices: { mapping: Mapping },
): Promise<void> {
  await sql`
    insert into mapping values (${accountId}, ${kind}, ${headerKey(headers)}, ${sql.json(choices as never)})
    on conflict (account_id, kind, headers) do update set choices = excluded.choices`;
}

export interface ImportRow {
  import_id: number;
  job_id: string | null;
  source: string;
  kind: string;
  file_name: string;
  rows_read: number;
  rows_loaded: number;
  rows_rejected: number;
  rows_totals: number;
  first_day: string | null;
  last_day: string | null;
  days_replaced: number;
  rejected_file: string | null;
  finished_at: Date;
}

export async function latestImports(sql: Database, accountId: number, limit: number): Promise<ImportRow[]> {
  return sql<ImportRow[]>`
    select * from import where account_id = ${accountId} order by import_id desc limit ${limit}`;
}

/** How fresh each kind of report is. */
export async function freshness(
  sql: Database,
  accountId: number,
): Promise<{ kind: string; first_day: string; last_day: string; days: number; loaded_at: Date }[]> {
  return sql`
    select kind, min(day) as first_day, max(day) as last_day, count(*)::int as days, max(loaded_at) as loaded_at
    from report_day where account_id = ${accountId} group by kind order by kind`;
}
