import { PassThrough, Readable } from 'node:stream';
import { stringify } from 'csv-stringify';
import excel from 'exceljs';
import { columnLabel, readColumn, type ColumnRef, type Level } from '../../core/explore/columns.ts';
import type { Value } from '../../core/explore/conditions.ts';
import { units } from '../../core/metrics/money.ts';

export const tableFormats = ['csv', 'xlsx', 'jsonl'] as const;
export type TableFormat = (typeof tableFormats)[number];

const types: Record<TableFormat, string> = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  jsonl: 'application/jsonl; charset=utf-8',
};

/** Numbers as other tools take them: money in currency units, shares as shares, nothing for nothing. */
function plain({ column, frame }: ColumnRef, value: Value): string | number | null {
  return typeof value === 'number' && column.kind === 'money' && frame !== 'change' ? units(value) : value;
}

/** Rows of a table as a file, streamed: any number of them. Text that a spreadsheet would run is escaped. */
export function tableFile(
  format: TableFormat,
  level: Level,
  refs: readonly string[],
  rows: AsyncIterable<Value[]>,
): Response {
  const columns = refs.map((ref) => readColumn(ref, level)!);
  const lines = (async function* () {
    for await (const values of rows) yield columns.map((column, i) => plain(column, values[i] ?? null));
  })();
  const body = Readable.toWeb(writers[format](lines, columns, refs)) as ReadableStream;
  return new Response(body, {
    headers: {
      'content-type': types[format],
      'content-disposition': `attachment; filename="${level}.${format}"`,
    },
  });
}

type Lines = AsyncIterable<(string | number | null)[]>;

const writers: Record<
  TableFormat,
  (lines: Lines, columns: ColumnRef[], refs: readonly string[]) => Readable
> = {
  csv: (lines, columns) =>
    Readable.from(lines).pipe(
      stringify({
        header: true,
        columns: columns.map((column) => columnLabel(column)),
        escape_formulas: true,
      }),
    ),
  jsonl: (lines, _, refs) =>
    Readable.from(
      (async function* () {
        for await (const line of lines) {
          yield `${JSON.stringify(Object.fromEntries(refs.map((ref, i) => [ref, line[i]])))}\n`;
        }
      })(),
    ),
  xlsx: (lines, columns) => {
    const stream = new PassThrough();
    const book = new excel.stream.xlsx.WorkbookWriter({ stream });
    const sheet = book.addWorksheet('Mowing', { views: [{ state: 'frozen', ySplit: 1 }] });
    const formats: Partial<Record<string, string>> = { share: '0.0%', money: '#,##0.00', count: '#,##0' };
    sheet.columns = columns.map((column) => {
      const numFmt = column.frame === 'change' ? '0.0%' : formats[column.column.kind];
      return { header: columnLabel(column), width: 16, ...(numFmt ? { style: { numFmt } } : {}) };
    });
    void (async () => {
      for await (const line of lines) sheet.addRow(line).commit();
      await book.commit();
    })().catch((error: Error) => stream.destroy(error));
    return stream;
  },
};
