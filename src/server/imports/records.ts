import { parse, type CsvError } from 'csv-parse';
import { dsvFormat } from 'd3';
import { textOfFile } from './decode.ts';
import type { Layout } from './inspect.ts';
import { jsonCells } from './lines.ts';
import { workbookRows } from './workbook.ts';

/** Some records of a file in their order, and those between them that could not be parted into cells. */
export interface Batch {
  records: string[][];
  /** Lines that hold no record, and why. */
  broken: { line: number; reason: string }[];
  /** Characters read so far: near enough to bytes for progress. */
  bytes: number;
}

const notEmpty = (cells: string[]): boolean => cells.length > 1 || cells[0] !== '';
const longestRecord = 1 << 20;

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
      if (typeof cells === 'string') batch.broken.push({ line, reason: cells });
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
 * Records of a CSV in batches. While no quote appears, whole pieces are split at once, which is some ten times as
 * fast; from the first piece with a quote on, the stricter reader takes over, which knows quotes, line breaks within
 * them, and what is wrong with them.
 */
async function* csvRecords(path: string, layout: Layout): AsyncGenerator<Batch> {
  const text = textOfFile(path, layout.encoding);
  const plain = dsvFormat(layout.delimiter);
  let pending = '';
  let bytes = 0;
  try {
    for (;;) {
      const { value, done } = await text.next();
      if (done) break;
      pending += value;
      bytes += value.length;
      if (pending.includes('"') || pending.length > longestRecord * 2) {
        yield* strictRecords(pending, bytes, text, layout);
        return;
      }
      const end = pending.lastIndexOf('\n') + 1;
      if (end === 0) continue;
      const records = plain.parseRows(pending.slice(0, end)).filter(notEmpty);
      pending = pending.slice(end);
      yield { records, broken: [], bytes };
    }
    if (pending !== '') yield { records: plain.parseRows(pending).filter(notEmpty), broken: [], bytes };
  } finally {
    // Whoever stops in the middle leaves no file open.
    await text.return();
  }
}

async function* strictRecords(
  start: string,
  read: number,
  rest: AsyncIterator<string>,
  layout: Layout,
): AsyncGenerator<Batch> {
  let bytes = read;
  let broken: Batch['broken'] = [];
  const parser = parse({
    delimiter: layout.delimiter,
    relax_column_count: true,
    skip_empty_lines: true,
    skip_records_with_error: true,
    max_record_size: longestRecord,
    on_skip: (error: (CsvError & { lines?: number }) | undefined) => {
      if (!error) return;
      const line = error.lines ?? 0;
      broken.push({ line, reason: `The quotes of this row do not close as they should (line ${line}).` });
    },
  });
  const feed = (async () => {
    const write = (piece: string) =>
      parser.write(piece) ? Promise.resolve() : new Promise<void>((ready) => parser.once('drain', ready));
    await write(start);
    for (;;) {
      const { value, done } = await rest.next();
      if (done) break;
      bytes += value.length;
      await write(value);
    }
    parser.end();
  })();
  feed.catch((error: Error) => parser.destroy(error));
  let records: string[][] = [];
  for await (const cells of parser) {
    records.push(cells as string[]);
    if (records.length < rowsOfABatch && broken.length === 0) continue;
    yield { records, broken, bytes };
    records = [];
    broken = [];
  }
  yield { records, broken, bytes };
}
