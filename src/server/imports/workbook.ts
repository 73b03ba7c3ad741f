import { createReadStream } from 'node:fs';
import excel from 'exceljs';

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

export interface SheetRow {
  sheet: string;
  /** From 1, as the sheet counts. */
  row: number;
  cells: string[];
  /** Bytes of the file that were read so far. */
  bytes: number;
}

/** The rows of a workbook; `wants` tells which sheets, and when there are enough rows of one. */
export async function* workbookRows(
  path: string,
  wants: (sheet: string, row: number) => boolean,
): AsyncGenerator<SheetRow> {
  const file = createReadStream(path);
  const reader = new excel.stream.xlsx.WorkbookReader(file, {
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
        if (!wants(name, row.number)) continue;
        const cells: string[] = [];
        for (let at = 1; at <= row.cellCount; at++) {
          const cell = row.getCell(at);
          cells.push(cellText(cell.value, cell.numFmt as string | undefined));
        }
        yield { sheet: name, row: row.number, cells, bytes: file.bytesRead };
      }
    }
  } finally {
    file.destroy();
  }
}
