import { parse } from 'csv-parse/sync';
import { ServiceError } from '../errors.ts';
import { decodeHead, encodingOf, readHead, type Encoding } from './decode.ts';
import {
  fileKinds,
  mapHeaders,
  missingColumns,
  recogniseKind,
  type FileKind,
  type Mapping,
} from './kinds.ts';
import { dateOrders, decimalMarks, isTotal, type DateOrder, type DecimalMark } from './values.ts';

/** How a file is laid out, and what its columns mean. */
export interface Layout {
  encoding: Encoding;
  delimiter: ',' | ';' | '\t';
  /** Rows above the header. */
  titleRows: number;
  headers: string[];
}

export interface Inspection extends Layout {
  kind: FileKind | null;
  mapping: Mapping;
  /** First values of every header. */
  samples: string[][];
  /** More than one: ask. */
  dateOrders: DateOrder[];
  decimalMarks: DecimalMark[];
  /** Required columns that no header feeds. */
  missing: string[];
  bytes: number;
}

const delimiters = [',', ';', '\t'] as const;

function split(text: string, delimiter: string, lines: number): string[][] {
  try {
    return parse(text, {
      delimiter,
      relax_column_count: true,
      relax_quotes: true,
      skip_empty_lines: true,
      skip_records_with_error: true,
      to: lines,
    });
  } catch {
    return [];
  }
}

/** The header is the first row that names the columns of some kind; failing that, the first of the widest rows. */
function findHeader(rows: string[][]): number {
  const known = rows.slice(0, 30).findIndex((row) => recogniseKind(row) !== null);
  if (known >= 0) return known;
  const widest = Math.max(0, ...rows.map((row) => row.length));
  return rows.findIndex((row) => row.length === widest);
}

/** Looks at the beginning of a file: layout, kind, mapping, sample values. Nothing is loaded. */
export async function inspectFile(path: string, fileName: string): Promise<Inspection> {
  const { head, size, whole } = await readHead(path);
  if (size === 0) throw new ServiceError(422, 'empty_file', 'The file is empty.', { file: fileName });
  if (head[0] === 0x50 && head[1] === 0x4b) {
    const message = 'This is a workbook or an archive. Save the sheet as CSV and load that.';
    throw new ServiceError(422, 'not_csv', message, { file: fileName });
  }
  const encoding = encodingOf(head, whole);
  const text = decodeHead(head, encoding);
  // A cut record at the end of the part would look like a bad one.
  const part = whole ? text : text.slice(0, text.lastIndexOf('\n') + 1);
  let best: { delimiter: Layout['delimiter']; rows: string[][]; at: number; score: number } | null = null;
  for (const delimiter of delimiters) {
    const rows = split(part, delimiter, 400);
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
  const headers = best.rows[best.at]!;
  const body = best.rows.slice(best.at + 1).filter((row) => !row.some(isTotal));
  if (body.length === 0) {
    throw new ServiceError(422, 'no_rows', 'The file has headers and no rows below them.', {
      file: fileName,
    });
  }
  const kind = recogniseKind(headers);
  const layout = { encoding, delimiter: best.delimiter, titleRows: best.at, headers, bytes: size };
  const samples = headers.map((_, i) => body.slice(0, 5).map((row) => row[i] ?? ''));
  const mapping = kind ? mapHeaders(kind, headers) : {};
  return { ...layout, kind, samples, ...readAs(kind, mapping, body), mapping };
}

function readAs(kind: FileKind | null, mapping: Mapping, body: string[][]) {
  if (!kind) return { dateOrders: [], decimalMarks: [], missing: [] };
  const valuesOf = (types: string[]) =>
    fileKinds[kind]
      .filter(({ name, type }) => types.includes(type) && mapping[name] != null)
      .flatMap(({ name }) => body.map((row) => row[mapping[name]!] ?? ''));
  return {
    dateOrders: dateOrders(valuesOf(['date'])),
    decimalMarks: decimalMarks(valuesOf(['money', 'count', 'share'])),
    missing: missingColumns(kind, mapping),
  };
}

/** Looks again with a kind and a mapping chosen by hand. */
export async function inspectAs(
  path: string,
  layout: Layout,
  kind: FileKind,
  mapping: Mapping,
): Promise<Pick<Inspection, 'dateOrders' | 'decimalMarks' | 'missing'>> {
  const { head } = await readHead(path);
  const rows = split(decodeHead(head, layout.encoding), layout.delimiter, 400);
  return readAs(
    kind,
    mapping,
    rows.slice(layout.titleRows + 1).filter((row) => !row.some(isTotal)),
  );
}
