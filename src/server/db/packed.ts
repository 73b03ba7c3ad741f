import type { PendingQuery, Row } from 'postgres';
import type { Database } from './connection.ts';

/** A part of a statement. */
export type Fragment = PendingQuery<Row[]>;

/** Stand between the values of a row and between rows; the importer lets neither into a text. */
export const betweenValues = '\u001f';
const betweenRows = '\u001e';

/**
 * Rows as lists of texts, two thousand to one value on the wire: by the hundred thousand, a row object each would cost
 * the driver many times what Postgres needs. `common` is the statement's `with` or nothing, `rows` a select of one
 * column `row`, made by concat_ws(betweenValues, ...), in which nothing may be null. No cursor: Postgres works in
 * parallel only for an answer that is asked for whole.
 */
export async function packedRows(
  sql: Database,
  common: Fragment,
  rows: Fragment,
  onRow: (row: string[]) => void,
): Promise<void> {
  const pieces = await sql.begin(async (tx) => {
    // Sums by the million are hashed in memory or, else, sorted on disk.
    await tx`set local work_mem = '256MB'`;
    await tx`set local jit = off`;
    return tx<{ packed: string }[]>`
      ${common}
      select string_agg(row, ${betweenRows}) as packed
      from (select row, row_number() over () / 2000 as piece from (${rows}) r) p
      group by piece`;
  });
  for (const { packed } of pieces)
    for (const row of packed.split(betweenRows)) onRow(row.split(betweenValues));
}
