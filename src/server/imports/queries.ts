import type { FileKind, Mapping, ImportsAnswer } from '../../answers/imports.ts';
import type { Database } from '../db/connection.ts';

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

type ImportRow = Omit<ImportsAnswer['imports'][number], 'finished_at'> & { finished_at: Date };

export async function latestImports(sql: Database, accountId: number, limit: number): Promise<ImportRow[]> {
  return sql<ImportRow[]>`
    select import_id, source, kind, file_name, rows_read, rows_loaded, rows_rejected, rows_totals, first_day, last_day,
      days_replaced, rejected_file, finished_at, changed is not null and taken_back_at is null as can_take_back,
      taken_back_at is not null as is_taken_back
    from import where account_id = ${accountId} order by import_id desc limit ${limit}`;
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
