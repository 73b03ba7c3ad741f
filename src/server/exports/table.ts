import type { Level } from '../../core/account/levels.ts';
import { PassThrough, Readable } from 'node:stream';
import { stringify } from 'csv-stringify';
import { columnLabel, readColumn, type ColumnKind } from '../../core/explore/columns.ts';
import type { Value } from '../../core/explore/conditions.ts';
import { units } from '../../core/metrics/money.ts';

export const tableFormats = ['csv', 'xlsx', 'jsonl'] as const;
export type TableFormat = (typeof tableFormats)[number];

const types: Record<TableFormat, string> = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  jsonl: 'application/jsonl; charset=utf-8',
};

/** A column of a file: what it is called there, and how its numbers are written. */
export interface FileColumn {
  key: string;
  label: string;
  kind: ColumnKind;
}

/** Numbers as other tools take them: money in currency units, shares as shares, nothing for nothing. */
const plain = ({ kind }: FileColumn, value: Value): string | number | null =>
  value === Infinity ? 'no sales' : typeof value === 'number' && kind === 'money' ? units(value) : value;

/** Rows of a level as a file, streamed: any number of them. */
export function tableFile(
  format: TableFormat,
  level: Level,
  refs: readonly string[],
  rows: AsyncIterable<Value[]>,
): Response {
  const columns = refs.map((ref): FileColumn => {
    const column = readColumn(ref, level)!;
    // A change is a share of what was, whatever its figure is counted in.
    const kind = column.frame === 'change' ? 'share' : column.column.kind;
    return { key: ref, label: columnLabel(column), kind };
  });
  return valuesFile(format, level, columns, rows);
}

/** Rows as a file, streamed. Text that a spreadsheet would run is escaped. */
export function valuesFile(
  format: TableFormat,
  name: string,
  columns: FileColumn[],
  rows: AsyncIterable<Value[]> | Iterable<Value[]>,
): Response {
  const lines = (async function* () {
    for await (const values of rows) yield columns.map((column, i) => plain(column, values[i] ?? null));
  })();
  const body = Readable.toWeb(writers[format](lines, columns)) as ReadableStream;
  return new Response(body, {
    headers: {
      'content-type': types[format],
      'content-disposition': `attachment; filename="${name}.${format}"`,
    },
  });
}

type Lines = AsyncIterable<(string | number | null)[]>;

const writers: Record<TableFormat, (lines: Lines, columns: FileColumn[]) => Readable> = {
  csv: (lines, columns) =>
    Readable.from(lines).pipe(
      stringify({
        header: true,
        columns: columns.map(({ label }) => label),
        escape_formulas: true,
      }),
    ),
  jsonl: (lines, columns) =>
    Readable.from(
      (async function* () {
        for await (const line of lines) {
          yield `${JSON.stringify(Object.fromEntries(columns.map(({ key }, i) => [key, line[i]])))}\n`;
        }
      })(),
    ),
  xlsx: (lines, columns) => {
    const stream = new PassThrough();
    const formats: Partial<Record<string, string>> = { share: '0.0%', money: '#,##0.00', count: '#,##0' };
    void (async () => {
      // Read when it is wanted: half of the time that a server takes to start.
      const { default: excel } = await import('exceljs');
      const book = new excel.stream.xlsx.WorkbookWriter({ stream });
      const sheet = book.addWorksheet('Mowing', { views: [{ state: 'frozen', ySplit: 1 }] });
      sheet.columns = columns.map(({ label, kind }) => {
        const numFmt = formats[kind];
        return { header: label, width: 16, ...(numFmt ? { style: { numFmt } } : {}) };
      });
      for await (const line of lines) sheet.addRow(line).commit();
      await book.commit();
    })().catch((error: Error) => stream.destroy(error));
    return stream;
  },
};
