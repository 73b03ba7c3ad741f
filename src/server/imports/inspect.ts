import type { FileKind, Inspection, Layout, Mapping } from '../../answers/imports.ts';
import { ServiceError } from '../errors.ts';
import { linesOf, parted } from './files/csv.ts';
import { decodeHead, encodingOf, readHead } from './files/decode.ts';
import { mapHeaders, missingColumns } from './files/columns.ts';
import { fileKinds, recogniseKind } from './kinds/index.ts';
import { jsonCells, jsonHeaders } from './files/lines.ts';
import { dateOrders, decimalMarks, isTotal } from './files/values.ts';
import { workbookRows } from './files/workbook.ts';

const delimiters = [',', ';', '\t'] as const;

/** The first lines of a text as rows, one a line. */
const split = (text: string, delimiter: string, lines: number): string[][] =>
  parted(linesOf(text).slice(0, lines), delimiter, null, false).records;

/** The header is the first row that names the columns of some kind; failing that, the first of the widest rows. */
function findHeader(rows: string[][]): number {
  const known = rows.slice(0, 30).findIndex((row) => recogniseKind(row) !== null);
  if (known >= 0) return known;
  const widest = Math.max(0, ...rows.map((row) => row.length));
  return rows.findIndex((row) => row.length === widest);
}

const rowsLookedAt = 400;

/** What is to be taken for granted when looking at a file. */
export interface Wanted {
  sheet?: string;
  kind?: FileKind;
}

/** Looks at the beginning of a file: layout, kind, mapping, sample values. Nothing is loaded. */
export async function inspectFile(path: string, fileName: string, wanted: Wanted = {}): Promise<Inspection> {
  const { head, size, whole } = await readHead(path);
  if (size === 0) throw new ServiceError(422, 'empty_file', 'The file is empty.', { file: fileName });
  if (head[0] === 0x50 && head[1] === 0x4b) return inspectWorkbook(path, fileName, size, wanted);
  const encoding = encodingOf(head, whole);
  const text = decodeHead(head, encoding);
  // A cut record at the end of the part would look like a bad one.
  const part = whole ? text : text.slice(0, text.lastIndexOf('\n') + 1);
  if (part.trimStart().startsWith('{')) {
    const { headers, rows } = jsonTable(part);
    const layout = {
      format: 'jsonl',
      encoding,
      delimiter: ',',
      sheet: null,
      titleRows: -1,
      headers,
    } as const;
    return { ...inspected(layout, rows, fileName, wanted), bytes: size, sheets: [] };
  }
  let best: { delimiter: Layout['delimiter']; rows: string[][]; at: number; score: number } | null = null;
  for (const delimiter of delimiters) {
    const rows = split(part, delimiter, rowsLookedAt);
    const at = findHeader(rows);
    const header = rows[at] ?? [];
    const score = header.length + (recogniseKind(header) === null ? 0 : 1000);
    if (header.length > 1 && (!best || score > best.score)) best = { delimiter, rows, at, score };
  }
  if (!best) {
    const message =
      'No table was found: neither commas, semicolons nor tabs part the first lines into columns.';
    throw new ServiceError(422, 'no_table', message, { file: fileName });
  }
  const layout: Layout = {
    format: 'csv',
    encoding,
    delimiter: best.delimiter,
    sheet: null,
    titleRows: best.at,
    headers: best.rows[best.at]!,
  };
  return {
    ...inspected(layout, best.rows.slice(best.at + 1), fileName, wanted),
    bytes: size,
    sheets: [],
  };
}

/** The first lines of JSON Lines as a table. */
function jsonTable(part: string): { headers: string[]; rows: string[][] } {
  const lines = part.split('\n').slice(0, rowsLookedAt);
  const headers = jsonHeaders(lines);
  const rows = lines.map((line) => jsonCells(line, headers)).filter((cells) => typeof cells !== 'string');
  return { headers, rows };
}

async function sheetHeads(path: string, fileName: string): Promise<Map<string, string[][]>> {
  const sheets = new Map<string, string[][]>();
  try {
    for await (const { sheet, row, cells } of workbookRows(path, () => true, rowsLookedAt)) {
      const rows = sheets.get(sheet) ?? [];
      sheets.set(sheet, rows);
      // Rows keep their places, empty ones too.
      rows[row - 1] = cells;
    }
  } catch (error) {
    if (error instanceof ServiceError)
      throw new ServiceError(error.status, error.code, error.message, { ...error.place, file: fileName });
    throw error;
  }
  for (const [name, rows] of sheets)
    sheets.set(
      name,
      Array.from(rows, (cells) => cells ?? []),
    );
  return sheets;
}

async function inspectWorkbook(
  path: string,
  fileName: string,
  bytes: number,
  wanted: Wanted,
): Promise<Inspection> {
  const heads = await sheetHeads(path, fileName);
  const sheets = [...heads].map(([name, rows]) => ({
    name,
    kind: recogniseKind(rows[findHeader(rows)] ?? []),
  }));
  const chosen = wanted.sheet ?? (sheets.find(({ kind }) => kind !== null) ?? sheets[0])?.name;
  const rows = chosen === undefined ? undefined : heads.get(chosen);
  if (chosen === undefined || !rows) {
    const message = wanted.sheet
      ? `It has no sheet "${wanted.sheet}" with rows.`
      : 'The workbook has no rows.';
    throw new ServiceError(422, 'no_sheet', message, { file: fileName });
  }
  const at = findHeader(rows);
  const layout: Layout = {
    format: 'xlsx',
    encoding: 'utf-8',
    delimiter: ',',
    sheet: chosen,
    titleRows: at,
    headers: rows[at]!,
  };
  return { ...inspected(layout, rows.slice(at + 1), fileName, wanted), bytes, sheets };
}

/** Rows with values to learn from: not empty, and no total where there are others. */
function bodyOf(rows: string[][]): string[][] {
  const filled = rows.filter((row) => row.length > 0);
  const others = filled.filter((row) => !isTotal(row.find((cell) => cell !== '') ?? ''));
  return others.length > 0 ? others : filled;
}

/** What rows below a header mean. */
function inspected(layout: Layout, rows: string[][], fileName: string, wanted: Wanted) {
  const { headers } = layout;
  const body = bodyOf(rows);
  if (body.length === 0) {
    throw new ServiceError(422, 'no_rows', 'The file has headers and no rows below them.', {
      file: fileName,
    });
  }
  const kind = wanted.kind ?? recogniseKind(headers);
  const samples = headers.map((_, i) => body.slice(0, 5).map((row) => row[i] ?? ''));
  const mapping = kind ? mapHeaders(fileKinds[kind].columns, headers) : {};
  return { ...layout, kind, samples, mapping, ...readAs(kind, mapping, body) };
}

function readAs(kind: FileKind | null, mapping: Mapping, body: string[][]) {
  if (!kind) return { dateOrders: [], decimalMarks: [], missing: [] };
  const valuesOf = (types: string[]) =>
    fileKinds[kind].columns
      .filter(({ name, type }) => types.includes(type) && mapping[name] != null)
      .flatMap(({ name }) => body.map((row) => row[mapping[name]!] ?? ''));
  return {
    dateOrders: dateOrders(valuesOf(['date'])),
    decimalMarks: decimalMarks(valuesOf(['money', 'count', 'percent', 'share', 'number'])),
    missing: missingColumns(fileKinds[kind].columns, mapping),
  };
}

/** Looks again with a kind and a mapping chosen by hand. */
export async function inspectAs(
  path: string,
  layout: Layout,
  kind: FileKind,
  mapping: Mapping,
): Promise<Pick<Inspection, 'dateOrders' | 'decimalMarks' | 'missing'>> {
  const rows = (await firstRows(path, layout)).slice(layout.titleRows + 1);
  return readAs(kind, mapping, bodyOf(rows));
}

async function firstRows(path: string, layout: Layout): Promise<string[][]> {
  if (layout.format === 'xlsx') return (await sheetHeads(path, '')).get(layout.sheet!) ?? [];
  const { head } = await readHead(path);
  const text = decodeHead(head, layout.encoding);
  return layout.format === 'jsonl' ? jsonTable(text).rows : split(text, layout.delimiter, rowsLookedAt);
}
