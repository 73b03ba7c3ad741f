import type excel from 'exceljs';
import { ServiceError } from '../../errors.ts';
import { log } from '../../log.ts';
import { checkArchive, openArchive, repacked } from './archive.ts';

/** XLSX, read as a stream: a sheet of a million rows takes no more memory than one of ten. */

/** A cell as the text that a CSV of the same table would hold; numbers and dates in forms that are read in one way only. */
export function cellText(value: unknown, format: string | undefined): string {
  if (value === null || value === undefined) return '';
  if (typeof value === 'string') return value;
  if (typeof value === 'number') return numberText(value, format);
  if (value instanceof Date) return Number.isNaN(value.getTime()) ? '' : value.toISOString().slice(0, 10);
  if (typeof value !== 'object') return String(value as boolean);
  const rich = value as { richText?: { text: string }[]; text?: unknown; result?: unknown; error?: string };
  if (rich.richText) return rich.richText.map(({ text }) => text).join('');
  if (rich.error !== undefined) return rich.error;
  return cellText(rich.text ?? rich.result, format);
}

/** A number with a decimal point that cannot be taken for one of thousands; per cent where the cell shows per cent. */
export function numberText(value: number, format = ''): string {
  if (format.includes('%')) return `${numberText(Number((value * 100).toPrecision(15)))}%`;
  const text = Number.isInteger(value) ? value.toFixed(0) : String(value);
  return /\.\d{3}$/.test(text) ? `${text}0` : text;
}

/** What a sheet can have at most, and what of its width is read. */
const mostRows = 1_048_576;
const mostColumns = 1000;

function cellsOf(row: excel.Row, sheet: string): string[] {
  const cells: string[] = [];
  // Only cells that are there: a row may name its first cell and its last.
  row.eachCell((cell, at) => {
    const text = cellText(cell.value, cell.numFmt as string | undefined);
    if (text === '') return;
    if (at > mostColumns) {
      const message = `Row ${row.number} of the sheet “${sheet}” has a cell in column ${at}; ${mostColumns} columns are the most.`;
      throw new ServiceError(422, 'too_wide', message, { row: row.number });
    }
    while (cells.length < at - 1) cells.push('');
    cells.push(text);
  });
  return cells;
}

export interface SheetRow {
  sheet: string;
  /** From 1, as the sheet counts. */
  row: number;
  cells: string[];
  /** Bytes of the file that were read so far. */
  bytes: number;
}

/** The rows of the sheets that are wanted, of each the first `rows`. */
export async function* workbookRows(
  path: string,
  wants: (sheet: string) => boolean,
  rows = Infinity,
): AsyncGenerator<SheetRow> {
  await checkArchive(path);
  const { default: excel } = await import('exceljs');
  const archive = await openArchive(path);
  let bytes = 0;
  const zip = repacked(archive, rows, (more) => (bytes += more));
  const reader = new excel.stream.xlsx.WorkbookReader(zip, {
    worksheets: 'emit',
    sharedStrings: 'cache',
    hyperlinks: 'ignore',
    styles: 'cache',
    entries: 'ignore',
  });
  try {
    for await (const sheet of reader) {
      const { name } = sheet as unknown as { name: string };
      for await (const row of sheet) {
        if (row.number > mostRows) {
          const message = `The sheet “${name}” numbers a row ${row.number}; a sheet has at most ${mostRows} rows. It is damaged.`;
          throw new ServiceError(422, 'bad_workbook', message, { row: row.number });
        }
        if (!wants(name)) continue;
        const cells = cellsOf(row, name);
        yield { sheet: name, row: row.number, cells, bytes: Math.round(bytes) };
      }
    }
  } catch (error) {
    if (error instanceof ServiceError) throw error;
    log.warn({ error, path }, 'workbook could not be read');
    throw new ServiceError(422, 'no_workbook', 'This is an archive, and no workbook that can be read.');
  } finally {
    zip.destroy();
    archive.close();
  }
}
