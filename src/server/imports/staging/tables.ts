import { copyInto, copyText, inPieces } from '../../db/copy.ts';
import type { Transaction } from '../../db/connection.ts';

/** Columns of a table that holds the rows of one load, with their types in SQL. */
export type StagedColumns = Record<string, string>;

/** What of a row is staged for figures. */
export const stagedFigures: StagedColumns = {
  impressions: 'integer',
  clicks: 'integer',
  spend: 'bigint',
  orders: 'integer',
  units: 'integer',
  sales: 'bigint',
};

/** A table for rows that wait to be merged; gone with the transaction. */
export async function makeStaged(tx: Transaction, table: string, columns: StagedColumns): Promise<void> {
  const list = Object.entries(columns).map(([name, type]) => `${name} ${type}`);
  await tx.unsafe(`create temporary table ${table} (${list.join(', ')}) on commit drop`);
}

/** Puts rows into such a table; columns that a row does not have stay empty. */
export async function stageRows(
  tx: Transaction,
  table: string,
  columns: StagedColumns,
  rows: readonly Record<string, string | number | null | undefined>[],
): Promise<void> {
  const names = Object.keys(columns);
  await copyInto(
    tx,
    table,
    inPieces(rows.map((row) => `${names.map((name) => copyText(row[name] ?? null)).join('\t')}\n`)),
  );
}
