import type { Layout } from '../../../answers/imports.ts';
import { linesOf, longestRecord, parted } from './csv.ts';
import { textOfFile } from './decode.ts';
import { jsonCells } from './lines.ts';
import { workbookRows } from './workbook.ts';

/** Some records of a file in their order, and those between them that could not be parted into cells. */
export interface Batch {
  /** One a row of the file: empty where a row holds none. */
  records: string[][];
  /** Lines that hold no record, and why. */
  broken: { line: number; text: string; reason: string }[];
  /** Characters read so far: near enough to bytes for progress. */
  bytes: number;
}

/** Records of a file in batches, whatever its format. */
export function recordsOf(path: string, layout: Layout): AsyncGenerator<Batch> {
  if (layout.format === 'xlsx') return sheetRecords(path, layout);
  return layout.format === 'jsonl' ? jsonRecords(path, layout) : csvRecords(path, layout);
}

const rowsOfABatch = 500;

async function* sheetRecords(path: string, { sheet }: Layout): AsyncGenerator<Batch> {
  let records: string[][] = [];
  let next = 1;
  let last = 0;
  for await (const { row, cells, bytes } of workbookRows(path, (name) => name === sheet)) {
    // Sheets leave empty rows out; each keeps its place.
    for (; next < row; next++) records.push([]);
    next = row + 1;
    records.push(cells.every((cell) => cell === '') ? [] : cells);
    last = bytes;
    if (records.length < rowsOfABatch) continue;
    yield { records, broken: [], bytes };
    records = [];
  }
  yield { records, broken: [], bytes: last };
}

async function* jsonRecords(path: string, layout: Layout): AsyncGenerator<Batch> {
  let rest = '';
  let line = 0;
  let bytes = 0;
  const take = (lines: string[]): Batch => {
    const batch: Batch = { records: [], broken: [], bytes };
    for (const text of lines) {
      line++;
      const cells = text.trim() === '' ? [] : jsonCells(text, layout.headers);
      if (typeof cells === 'string') batch.broken.push({ line, text, reason: cells });
      batch.records.push(typeof cells === 'string' ? [] : cells);
    }
    return batch;
  };
  for await (const piece of textOfFile(path, layout.encoding)) {
    bytes += piece.length;
    const lines = (rest + piece).split('\n');
    rest = lines.pop()!;
    yield take(lines);
  }
  if (rest !== '') yield take([rest]);
}

/**
 * Records of a CSV in batches. Pieces without a quote are split at once; in others each line is looked at (csv.ts), so
 * that a stray quote costs its own line only.
 */
async function* csvRecords(path: string, layout: Layout): AsyncGenerator<Batch> {
  const text = textOfFile(path, layout.encoding);
  const width = layout.headers.length;
  let pending = '';
  let bytes = 0;
  let line = 0;
  const take = (part: string, more: boolean): Batch => {
    if (!part.includes('"')) {
      // Where nothing is quoted every delimiter parts two cells.
      const lines = linesOf(part);
      if (lines[lines.length - 1] === '') lines.pop();
      line += lines.length;
      const records = lines.map((text) => (text === '' ? [] : text.split(layout.delimiter)));
      return { records, broken: [], bytes };
    }
    const lines = linesOf(part);
    // What ends with a line break has no further line behind it.
    if (lines[lines.length - 1] === '') lines.pop();
    const { records, broken, rest } = parted(lines, layout.delimiter, width, more);
    pending = rest.length > 0 ? `${rest.join('\n')}\n${pending}` : pending;
    const batch = { records, broken: broken.map((one) => ({ ...one, line: line + one.line + 1 })), bytes };
    line += records.length;
    return batch;
  };
  try {
    for (;;) {
      const { value, done } = await text.next();
      if (done) break;
      pending += value;
      bytes += value.length;
      // Some files end their lines with a return alone; one at the very end may be half of a line break.
      const end = pending.lastIndexOf('\n') + 1 || pending.lastIndexOf('\r', pending.length - 2) + 1;
      if (end === 0) {
        if (pending.length <= longestRecord * 2) continue;
        // No row is that long: its beginning stands for it, the rest up to the next line break is passed over.
        pending = pending.slice(0, longestRecord + 1);
        continue;
      }
      const part = pending.slice(0, end);
      pending = pending.slice(end);
      yield take(part, true);
    }
    const last = pending;
    pending = '';
    if (last !== '') yield take(last, false);
  } finally {
    // Whoever stops in the middle leaves no file open.
    await text.return();
  }
}
