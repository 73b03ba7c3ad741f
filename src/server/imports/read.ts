import { parse, type CsvError } from 'csv-parse';
import type { Layout } from './inspect.ts';
import { textStream } from './decode.ts';
import { fileKinds, type Column, type ColumnType, type FileKind, type Mapping } from './kinds.ts';
import { isTotal, readDate, readNumber, type DateOrder, type DecimalMark } from './values.ts';

export interface Choices {
  kind: FileKind;
  mapping: Mapping;
  dateOrder: DateOrder;
  decimalMark: DecimalMark;
}

/** A row that could not be loaded: where it stands and why. Rows are counted as a spreadsheet does, from 1. */
export interface Rejected {
  row: number;
  column: string;
  value: string;
  reason: string;
  cells: string[];
}

/** A row as the columns of its kind: text as it stands, dates as YYYY-MM-DD, money in micros. */
export type Values = Record<string, string | number | null>;

export interface Reading {
  rowsRead: number;
  rowsTotals: number;
  rowsRejected: number;
  bytes: number;
}

interface Plan extends Column {
  at: number;
}

const longestText = 500;

class BadValue extends Error {
  constructor(
    readonly column: string,
    readonly value: string,
    reason: string,
  ) {
    super(reason);
  }
}

function readValue(plan: Plan, text: string, choices: Choices, dates: Map<string, string | null>) {
  const type: ColumnType = plan.type;
  if (type === 'text') {
    const trimmed = text.trim();
    if (plan.required && trimmed === '') throw new BadValue(plan.name, text, 'It is empty.');
    if (trimmed.length > longestText) {
      throw new BadValue(
        plan.name,
        trimmed.slice(0, 60),
        `It has ${trimmed.length} characters, ${longestText} are the most.`,
      );
    }
    if (trimmed.includes('\u0000')) throw new BadValue(plan.name, '', 'It holds a zero character.');
    return trimmed === '' ? null : trimmed;
  }
  if (type === 'date') {
    if (text.trim() === '' && !plan.required) return null;
    let day = dates.get(text);
    if (day === undefined) dates.set(text, (day = readDate(text, choices.dateOrder)));
    if (day === null) throw new BadValue(plan.name, text, 'It is not a date.');
    return day;
  }
  const number = readNumber(text, choices.decimalMark);
  if (number === null) throw new BadValue(plan.name, text, 'It is not a number.');
  if (type === 'share') return text.trim() === '' ? null : number;
  if (number < 0) throw new BadValue(plan.name, text, 'It is below zero.');
  if (type === 'count') {
    if (!Number.isInteger(number) || number > 2e9)
      throw new BadValue(plan.name, text, 'It is not a whole number.');
    return number;
  }
  if (number > 1e9) throw new BadValue(plan.name, text, 'It is larger than a billion.');
  return text.trim() === '' && !plan.required && choices.kind === 'structure'
    ? null
    : Math.round(number * 1e6);
}

/**
 * Streams a file row by row. `onRow` gets what could be read, `onRejected` what could not; either may return a
 * promise to slow the reading down. Every row is counted once: read = loaded + rejected + totals.
 */
export async function readFile(
  path: string,
  layout: Layout,
  choices: Choices,
  onRow: (values: Values, row: number) => Promise<void> | void,
  onRejected: (rejected: Rejected) => Promise<void> | void,
  onProgress: (bytes: number) => Promise<void> | void,
): Promise<Reading> {
  const plans: Plan[] = fileKinds[choices.kind].flatMap((column) => {
    const at = choices.mapping[column.name];
    return at === null || at === undefined ? [] : [{ ...column, at }];
  });
  const dates = new Map<string, string | null>();
  const reading: Reading = { rowsRead: 0, rowsTotals: 0, rowsRejected: 0, bytes: 0 };
  const broken: CsvError[] = [];
  const text = textStream(path, layout.encoding);
  const parser = parse({
    delimiter: layout.delimiter,
    relax_column_count: true,
    skip_empty_lines: true,
    skip_records_with_error: true,
    max_record_size: 1 << 20,
    on_skip: (error) => {
      if (error) broken.push(error);
    },
  });
  text.on('error', (error) => parser.destroy(error));
  text.pipe(parser);
  let row = 0;
  const rejectBroken = async () => {
    for (const error of broken.splice(0)) {
      reading.rowsRead++;
      reading.rowsRejected++;
      const line = error as unknown as { lines?: number };
      await onRejected({
        row: line.lines ?? row,
        column: '',
        value: '',
        reason: `The quotes of this row do not close as they should (line ${line.lines ?? row}).`,
        cells: [],
      });
    }
  };
  for await (const record of parser) {
    const cells = record as string[];
    row++;
    if (broken.length > 0) await rejectBroken();
    if (row <= layout.titleRows + 1) continue;
    reading.rowsRead++;
    if (row % 20_000 === 0) await onProgress(parser.info.bytes);
    const first = cells[0] ?? '';
    if (
      isTotal(first) ||
      (cells.length > 1 && first === '' && isTotal(cells.find((cell) => cell !== '') ?? ''))
    ) {
      reading.rowsTotals++;
      continue;
    }
    const values: Values = {};
    try {
      for (const plan of plans) values[plan.name] = readValue(plan, cells[plan.at] ?? '', choices, dates);
    } catch (error) {
      if (!(error instanceof BadValue)) throw error;
      reading.rowsRejected++;
      await onRejected({ row, column: error.column, value: error.value, reason: error.message, cells });
      continue;
    }
    const wait = onRow(values, row);
    if (wait) await wait;
  }
  await rejectBroken();
  reading.bytes = parser.info.bytes;
  return reading;
}
