import type { Layout } from './inspect.ts';
import { recordsOf } from './records.ts';
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

const isTotalRow = (cells: string[]): boolean => {
  const first = cells[0] ?? '';
  if (first === '') return cells.length > 1 && isTotal(cells.find((cell) => cell !== '') ?? '');
  // Only words can begin a total: dates and numbers need no closer look.
  return (first.charCodeAt(0) > 57 || first.startsWith(' ')) && isTotal(first);
};

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

/** Values that were read before: days and small numbers come again and again. */
interface Known {
  dates: Map<string, string | null>;
  numbers: Map<string, number | null>;
}

const mostKnown = 50_000;

function remember<T>(map: Map<string, T>, text: string, read: () => T): T {
  let value = map.get(text);
  if (value === undefined) {
    if (map.size >= mostKnown) map.clear();
    map.set(text, (value = read()));
  }
  return value;
}

function readValue(plan: Plan, text: string, choices: Choices, known: Known) {
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
    const day = remember(known.dates, text, () => readDate(text, choices.dateOrder));
    if (day === null) throw new BadValue(plan.name, text, 'It is not a date.');
    return day;
  }
  const number = remember(known.numbers, text, () => readNumber(text, choices.decimalMark));
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
  const known: Known = { dates: new Map(), numbers: new Map() };
  const reading: Reading = { rowsRead: 0, rowsTotals: 0, rowsRejected: 0, bytes: 0 };
  let row = 0;
  for await (const { records, broken, bytes } of recordsOf(path, layout)) {
    for (const cells of records) {
      row++;
      if (row <= layout.titleRows + 1) continue;
      reading.rowsRead++;
      if (isTotalRow(cells)) {
        reading.rowsTotals++;
        continue;
      }
      const values: Values = {};
      try {
        for (const plan of plans) values[plan.name] = readValue(plan, cells[plan.at] ?? '', choices, known);
      } catch (error) {
        if (!(error instanceof BadValue)) throw error;
        reading.rowsRejected++;
        await onRejected({ row, column: error.column, value: error.value, reason: error.message, cells });
        continue;
      }
      const wait = onRow(values, row);
      if (wait) await wait;
    }
    for (const line of broken) {
      reading.rowsRead++;
      reading.rowsRejected++;
      const reason = `The quotes of this row do not close as they should (line ${line}).`;
      await onRejected({ row: line, column: '', value: '', reason, cells: [] });
    }
    reading.bytes = bytes;
    await onProgress(bytes);
  }
  return reading;
}
