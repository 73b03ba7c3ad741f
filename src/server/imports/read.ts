import type { Layout } from './inspect.ts';
import { recordsOf } from './records.ts';
import { fileKinds, type Column, type FileKind, type Mapping } from './kinds.ts';
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

const mostKnown = 50_000;

/** A value as text; null where the row has none. */
export const textOf = (value: string | number | null | undefined): string | null =>
  value === null || value === undefined ? null : String(value);

/** Exports put an apostrophe before what a spreadsheet would take for a formula; here it is taken off again. */
const unescaped = (text: string): string => (/^'[=+\-@]/.test(text) ? text.slice(1) : text);

function readText(plan: Plan, text: string): string | null {
  let trimmed = text.trim();
  if (trimmed === '') {
    if (plan.required) throw new BadValue(plan.name, text, 'It is empty.');
    return null;
  }
  if (trimmed.length > longestText) {
    throw new BadValue(
      plan.name,
      trimmed.slice(0, 60),
      `It has ${trimmed.length} characters, ${longestText} are the most.`,
    );
  }
  if (/[\u0000\u001e\u001f]/.test(trimmed))
    throw new BadValue(plan.name, '', 'It holds a control character.');
  if (trimmed.startsWith("'")) trimmed = unescaped(trimmed);
  return trimmed;
}

function readNumberOf(plan: Plan, text: string, choices: Choices): number | null {
  const { type } = plan;
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

/** The reader of one column. Days and small numbers come again and again: each text is taken apart once. */
function readerOf(plan: Plan, choices: Choices): (text: string) => string | number | null {
  if (plan.type === 'text') return (text) => readText(plan, text);
  const known = new Map<string, string | number | null>();
  const read = (text: string): string | number | null => {
    if (plan.type !== 'date') return readNumberOf(plan, text, choices);
    if (text.trim() === '' && !plan.required) return null;
    const day = readDate(text, choices.dateOrder);
    if (day === null) throw new BadValue(plan.name, text, 'It is not a date.');
    return day;
  };
  return (text) => {
    let value = known.get(text);
    if (value === undefined) {
      value = read(text);
      if (known.size >= mostKnown) known.clear();
      known.set(text, value);
    }
    return value;
  };
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
  const readers = plans.map((plan) => ({ name: plan.name, at: plan.at, read: readerOf(plan, choices) }));
  // Every row is a copy of this one: objects of one shape are several times as quick to fill.
  const blank = Object.fromEntries(readers.map(({ name }) => [name, null]));
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
      const values: Values = { ...blank };
      try {
        for (const { name, at, read } of readers) values[name] = read(cells[at] ?? '');
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
