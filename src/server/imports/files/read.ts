import type {
  Column,
  DateOrder,
  DecimalMark,
  FileKind,
  Layout,
  Mapping,
  Rejected,
} from '../../../answers/imports.ts';
import { recordsOf } from './records.ts';
import type { Subjects } from './subjects.ts';
import { Totals } from './totals.ts';
import { isBlank, readDate, readNumber } from './values.ts';

export interface Choices {
  kind: FileKind;
  mapping: Mapping;
  dateOrder: DateOrder;
  decimalMark: DecimalMark;
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
  const fail = (reason: string) => new BadValue(plan.name, text, reason);
  const number = readNumber(text, choices.decimalMark);
  if (number === null) throw fail('It is not a number.');
  if (isBlank(text) && !plan.zero) {
    if (plan.required) throw fail('It is empty.');
    return null;
  }
  if (type === 'percent') return number;
  if (number < 0) throw fail('It is below zero.');
  if (type === 'share') {
    const share = text.includes('%') ? number / 100 : number;
    if (share > 5) throw fail('It is above 5: write a share as 0.15 or as 15%.');
    return share;
  }
  if (type === 'count') {
    if (!Number.isInteger(number) || number > 2e9) throw fail('It is not a whole number.');
    return number;
  }
  if (number > 1e9) throw fail('It is larger than a billion.');
  return type === 'number' ? number : Math.round(number * 1e6);
}

function readDay(plan: Plan, text: string, choices: Choices): string | null {
  if (isBlank(text) && !plan.required) return null;
  const day = readDate(text, choices.dateOrder);
  if (day === null) throw new BadValue(plan.name, text, 'It is not a date.');
  return day;
}

/** The reader of one column. The same day comes again and again: its text is taken apart once. */
function readerOf(plan: Plan, choices: Choices): (text: string) => string | number | null {
  if (plan.type === 'text') return (text) => readText(plan, text);
  if (plan.type !== 'date') return (text) => readNumberOf(plan, text, choices);
  const known = new Map<string, string | null>();
  return (text) => {
    let day = known.get(text);
    if (day === undefined) {
      day = readDay(plan, text, choices);
      if (known.size >= mostKnown) known.clear();
      known.set(text, day);
    }
    return day;
  };
}

/** A row of a CSV has the cells of its header: a shorter one was cut, a longer one has a delimiter in a cell. */
function checkWidth(
  cells: string[],
  { format, headers }: Layout,
  readers: { name: string; at: number }[],
): void {
  if (format !== 'csv' || cells.length === headers.length) return;
  const missing = readers.find(({ at }) => at >= cells.length);
  if (missing)
    throw new BadValue(missing.name, '', `The row ends after ${cells.length} of ${headers.length} cells.`);
  if (cells.slice(headers.length).some((cell) => cell.trim() !== ''))
    throw new BadValue(
      '',
      '',
      `The row has ${cells.length} cells, its header ${headers.length}: a delimiter within a cell wants quotes.`,
    );
}

/** What is wrong with a row whose values could all be read, as a column and a sentence; null when nothing is. */
export type RowCheck = (values: Values) => { column: string; reason: string } | null;

/**
 * Streams a file row by row. `onRow` gets what could be read, `onRejected` what could not; either may return a
 * promise to slow the reading down. Every row is counted once: read = loaded + rejected + totals.
 */
export async function readFile(
  path: string,
  layout: Layout,
  choices: Choices,
  columns: readonly Column[],
  { check, subjects }: { check: RowCheck | null; subjects?: Subjects },
  onRow: (values: Values) => Promise<void> | void,
  onRejected: (rejected: Rejected) => Promise<void> | void,
  onProgress: (bytes: number) => Promise<void> | void,
): Promise<Reading> {
  const plans: Plan[] = columns.flatMap((column) => {
    const at = choices.mapping[column.name];
    return at === null || at === undefined ? [] : [{ ...column, at }];
  });
  const readers = plans.map((plan) => ({ name: plan.name, at: plan.at, read: readerOf(plan, choices) }));
  // Every row is a copy of this one: objects of one shape are several times as quick to fill.
  const blank = Object.fromEntries([...readers.map(({ name }) => [name, null]), ['subject', null]]);
  const others = readers.filter(({ name }) => !subjects?.columns.includes(name));
  const known = subjects?.within(readers);
  const reading: Reading = { rowsRead: 0, rowsTotals: 0, rowsRejected: 0, bytes: 0 };
  const totals = new Totals(readers, columns);
  let row = 0;
  for await (const { records, broken, bytes } of recordsOf(path, layout)) {
    const unread = new Map(broken.map((one) => [one.line, one]));
    for (const cells of records) {
      row++;
      if (row <= layout.titleRows + 1) continue;
      if (cells.length === 0) {
        // Empty rows count for the place of the next, and for nothing else.
        const lost = unread.get(row);
        if (!lost) continue;
        reading.rowsRead++;
        reading.rowsRejected++;
        await onRejected({ row, column: '', value: '', reason: lost.reason, cells: [lost.text] });
        continue;
      }
      reading.rowsRead++;
      if (totals.holds(cells)) {
        reading.rowsTotals++;
        continue;
      }
      const values: Values = { ...blank };
      try {
        checkWidth(cells, layout, readers);
        const subject = known?.of(cells);
        for (const { name, at, read } of subject === undefined ? readers : others)
          values[name] = read(cells[at] ?? '');
        if (known) values.subject = subject ?? known.note(cells, values);
        const wrong = check?.(values);
        if (wrong) throw new BadValue(wrong.column, textOf(values[wrong.column]) ?? '', wrong.reason);
      } catch (error) {
        if (!(error instanceof BadValue)) throw error;
        reading.rowsRejected++;
        await onRejected({ row, column: error.column, value: error.value, reason: error.message, cells });
        continue;
      }
      totals.add(values);
      const wait = onRow(values);
      if (wait) await wait;
    }
    reading.bytes = bytes;
    await onProgress(bytes);
  }
  return reading;
}
