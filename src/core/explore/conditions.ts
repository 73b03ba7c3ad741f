import type { Level } from '../account/levels.ts';
import { patternOf } from '../terms/pattern.ts';
import { columnLabel, readColumn } from './columns.ts';

/** A cell's value: a number in the unit of its column, a word, or nothing. */
export type Value = number | string | null;

/** Conditions stack with all and any; a plain one compares a column with a value or with a multiple of a column. */
export type Condition = { all: Condition[] } | { any: Condition[] } | Plain;

export interface Plain {
  column: string;
  is: Operator;
  /** Micros, share or count as the column has it; words as a text or a list of texts. Not used by empty. */
  value?: number | string | string[];
  /** The value is multiplied by this column of the same row: "ACOS above 1.3 x its goal". */
  times?: string;
  not?: boolean;
}

export const operators = [
  'above',
  'below',
  'at_least',
  'at_most',
  'equals',
  'contains',
  'words',
  'starts',
  'matches',
  'one_of',
  'empty',
] as const;
export type Operator = (typeof operators)[number];

export const numberOperators: readonly Operator[] = [
  'above',
  'at_least',
  'below',
  'at_most',
  'equals',
  'empty',
];
export const textOperators: readonly Operator[] = [
  'contains',
  'words',
  'starts',
  'matches',
  'equals',
  'one_of',
  'empty',
];

/** What is wrong with a condition, as a sentence, and where: `all.1.value`. */
export class ConditionError extends Error {
  constructor(
    message: string,
    readonly path: string,
  ) {
    super(message);
  }
}

type Test = (row: number) => boolean;
export type Reader = (ref: string) => (row: number) => Value;

/** Makes a test of rows out of a condition. Throws a ConditionError for what cannot be tested at this level. */
export function compile(condition: Condition, level: Level, reader: Reader, path = ''): Test {
  const at = (part: string) => (path === '' ? part : `${path}.${part}`);
  if ('all' in condition) {
    const tests = condition.all.map((one, i) => compile(one, level, reader, at(`all.${i}`)));
    return (row) => tests.every((test) => test(row));
  }
  if ('any' in condition) {
    const tests = condition.any.map((one, i) => compile(one, level, reader, at(`any.${i}`)));
    return (row) => tests.some((test) => test(row));
  }
  const test = compilePlain(condition, level, reader, at);
  return condition.not ? (row) => !test(row) : test;
}

function compilePlain(
  { column: ref, is, value, times }: Plain,
  level: Level,
  reader: Reader,
  at: (part: string) => string,
): Test {
  const column = readColumn(ref, level);
  if (!column) throw new ConditionError(`There is no column "${ref}" here.`, at('column'));
  const read = reader(ref);
  if (is === 'empty') return (row) => read(row) === null;
  const isText = column.column.kind === 'text' || column.column.kind === 'day';
  if (!(isText && column.column.kind === 'text' ? textOperators : numberOperators).includes(is)) {
    throw new ConditionError(`${columnLabel(column)} cannot be tested with "${is}".`, at('is'));
  }
  if (column.column.kind === 'text') return textTest(read, is, value, at);
  if (column.column.kind === 'day') {
    if (typeof value !== 'string' || !/^\d{4}-\d{2}-\d{2}$/.test(value)) {
      throw new ConditionError(`"${String(value)}" is no day as 2026-11-16 is.`, at('value'));
    }
    return comparison(read as (row: number) => string | null, is, () => value);
  }
  if (typeof value !== 'number' || !Number.isFinite(value)) {
    throw new ConditionError(`"${String(value ?? '')}" is no number.`, at('value'));
  }
  // Spend without sales has no finite ACOS: spend and clicks find it, a comparison with a number does not.
  const finite = (row: number): number | null => {
    const one = read(row);
    return typeof one === 'number' && Number.isFinite(one) ? one : null;
  };
  if (times === undefined) return comparison(finite, is, () => value);
  const factorColumn = readColumn(times, level);
  if (!factorColumn || factorColumn.column.kind === 'text' || factorColumn.column.kind === 'day') {
    throw new ConditionError(`There is no column of numbers "${times}" here.`, at('times'));
  }
  const factor = reader(times);
  return comparison(finite, is, (row) => {
    const one = factor(row);
    return typeof one === 'number' && Number.isFinite(one) ? one * value : null;
  });
}

/** Nothing is neither above nor below anything. */
function comparison<T extends number | string>(
  read: (row: number) => T | null,
  is: Operator,
  limit: (row: number) => T | null,
): Test {
  const holds: (a: T, b: T) => boolean =
    is === 'above'
      ? (a, b) => a > b
      : is === 'below'
        ? (a, b) => a < b
        : is === 'at_least'
          ? (a, b) => a >= b
          : is === 'at_most'
            ? (a, b) => a <= b
            : (a, b) => a === b;
  return (row) => {
    const a = read(row);
    if (a === null) return false;
    const b = limit(row);
    return b !== null && holds(a, b);
  };
}

const wordsIn = (text: string): string[] => text.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [];

function textTest(
  read: (row: number) => Value,
  is: Operator,
  value: Plain['value'],
  at: (part: string) => string,
): Test {
  if (is === 'one_of') {
    if (!Array.isArray(value)) throw new ConditionError('A list of words is needed.', at('value'));
    const set = new Set(value);
    return (row) => set.has(String(read(row) ?? ''));
  }
  if (typeof value !== 'string') throw new ConditionError('A text is needed.', at('value'));
  const text = (row: number) => String(read(row) ?? '');
  const low = value.toLowerCase();
  switch (is) {
    case 'equals':
      return (row) => text(row).toLowerCase() === low;
    case 'starts':
      return (row) => text(row).toLowerCase().startsWith(low);
    case 'words': {
      const needs = wordsIn(value);
      return (row) => {
        const have = wordsIn(text(row));
        return needs.every((word) => have.includes(word));
      };
    }
    case 'matches': {
      let pattern: (text: string) => boolean;
      try {
        pattern = patternOf(value);
      } catch (error) {
        throw new ConditionError((error as Error).message, at('value'));
      }
      return (row) => pattern(text(row));
    }
    default:
      return (row) => text(row).toLowerCase().includes(low);
  }
}

/** The columns that a condition reads, comparisons included. */
export function columnsRead(condition: Condition): string[] {
  if ('all' in condition) return condition.all.flatMap(columnsRead);
  if ('any' in condition) return condition.any.flatMap(columnsRead);
  return condition.times === undefined ? [condition.column] : [condition.column, condition.times];
}
