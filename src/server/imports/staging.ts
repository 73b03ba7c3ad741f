import { once } from 'node:events';
import type { Transaction } from '../db/connection.ts';

/** Escapes one value for COPY's text format. */
export const copyText = (value: string | number | null): string => {
  if (value === null) return '\\N';
  if (typeof value === 'number') return String(value);
  return /[\\\t\n\r]/.test(value)
    ? value.replace(
        /[\\\t\n\r]/g,
        (sign) => `\\${sign === '\t' ? 't' : sign === '\n' ? 'n' : sign === '\r' ? 'r' : '\\'}`,
      )
    : value;
};

/** Lines in pieces of a thousand: one write each would cost more than the line. */
export function* inPieces(lines: readonly string[]): Generator<string> {
  for (let i = 0; i < lines.length; i += 1000) yield lines.slice(i, i + 1000).join('');
}

/** Copies pieces of text, each of whole lines, into a table; waits when Postgres is slower than we are. */
export async function copyInto(tx: Transaction, table: string, pieces: Iterable<string>): Promise<void> {
  const stream = await tx`copy ${tx(table)} from stdin`.writable();
  for (const piece of pieces) if (!stream.write(piece)) await once(stream, 'drain');
  const finished = once(stream, 'finish');
  stream.end();
  await finished;
}

/** Columns of a table that holds the rows of one load, with their types in SQL. */
export type StagedColumns = Record<string, string>;

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
