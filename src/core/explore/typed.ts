import type { Level } from '../account/levels.ts';
import { isDay } from '../metrics/days.ts';
import { units } from '../metrics/money.ts';
import { columnLabel, columnsOf, readColumn, type ColumnKind, type ColumnRef } from './columns.ts';
import { numberOperators, textOperators, type Condition, type Operator, type Plain } from './conditions.ts';
import { parseCondition, type Phrase, type TextProblem, type Tree } from './grammar.ts';

/** Conditions as people type them: "acos 50..75", "orders >= 3 and spend 45d > 12", "acos > 1.3 x goal". */

const numeric = (text: string): number => {
  const trimmed = text
    .trim()
    .replace(/[€$£%\s]/g, '')
    .replace('−', '-');
  // "1.234,50" and "0,45" have a comma for the point.
  const dotted = /,\d{1,2}$/.test(trimmed)
    ? trimmed.replaceAll('.', '').replace(',', '.')
    : trimmed.replaceAll(',', '');
  return dotted === '' ? NaN : Number(dotted);
};

/**
 * A typed number in the unit of its column: 0.45 as micros, 75 (%) as 0.75. Null for what is no number.
 * @example readNumber('money', '1.234,50') // 1_234_500_000
 * @example readNumber('share', '75 %') // 0.75
 * @example readNumber('count', 'many') // null
 */
export function readNumber(kind: ColumnKind, text: string): number | null {
  const value = numeric(text);
  if (!Number.isFinite(value)) return null;
  return kind === 'money' ? Math.round(value * 1e6) : kind === 'share' ? value / 100 : value;
}

/**
 * A value as it is typed: the other way round.
 * @example fieldText('share', 0.2) // '20'
 */
export function fieldText(kind: ColumnKind, value: number): string {
  if (kind === 'money') return units(value).toFixed(2);
  if (kind === 'share') return String(Math.round(value * 1e4) / 100);
  return String(value);
}

/** What numbers of a column are measured in; a change is a share whatever the column is. */
export const kindOf = ({ column, frame }: ColumnRef): ColumnKind =>
  frame === 'change' ? 'share' : column.kind;

const signs: Record<string, Operator> = {
  '>=': 'at_least',
  '≥': 'at_least',
  '<=': 'at_most',
  '≤': 'at_most',
  '>': 'above',
  '<': 'below',
  '=': 'equals',
  contains: 'contains',
  'has words': 'words',
  'starts with': 'starts',
  matches: 'matches',
  'one of': 'one_of',
  'is empty': 'empty',
};
const signOf = new Map<Operator, string>(
  Object.entries(signs)
    .filter(([sign]) => sign !== '≥' && sign !== '≤')
    .map(([sign, operator]) => [operator, sign]),
);
const range = /^(.+?)\s+([\d.,]+)\s*%?\s*(?:\.\.|to|–)\s*([\d.,]+)\s*%?$/i;

/** What a typed text means: a condition, or what is wrong with it and where. */
export type Typed = { condition: Condition } | { problem: TextProblem };

class Unreadable extends Error {
  constructor(
    message: string,
    readonly from: number,
    readonly to: number,
  ) {
    super(message);
  }
}

const unreadable = (message: string, { from, to }: Pick<Phrase, 'from' | 'to'>): Unreadable =>
  new Unreadable(message, from, to);

/** A column by its name or label, with its days behind it: "spend", "Ad profit", "acos 14d", "clicks before". */
function columnFrom(text: string, level: Level): string | null {
  const named = (name: string) => {
    const low = name.trim().toLowerCase().replace(/^its /, '');
    return columnsOf(level).find(
      (column) => column.label.toLowerCase() === low || column.name === low.replaceAll(' ', '_'),
    );
  };
  // "Last change" is a column, and no change of one called "last".
  const whole = named(text);
  if (whole) return whole.name;
  const [, name = '', days = '', word = ''] =
    /^(.+?)(?:\s+(\d{1,3})\s*d(?:ays)?|\s+(before|difference|change))?$/i.exec(text.trim()) ?? [];
  const found = named(name);
  if (!found) return null;
  const frame =
    days !== '' ? `@d${days}` : word === '' ? '' : `@${word.toLowerCase().replace('difference', 'diff')}`;
  const ref = `${found.name}${frame}`;
  return readColumn(ref, level) ? ref : null;
}

/** A number between two others: "acos 50..75", "orders 2 to 5"; null for what is none. */
function rangeFrom(phrase: Phrase, level: Level): Condition | null {
  const between = range.exec(phrase.text);
  if (!between) return null;
  const column = columnFrom(between[1]!, level);
  if (column === null) throw unreadable(`There is no column “${between[1]!}” here.`, phrase);
  const kind = kindOf(readColumn(column, level)!);
  const [from, to] = [readNumber(kind, between[2]!), readNumber(kind, between[3]!)];
  if (kind === 'text' || kind === 'day' || from === null || to === null)
    throw unreadable('A range wants two numbers.', phrase);
  return {
    all: [
      { column, is: 'at_least', value: from },
      { column, is: 'below', value: to },
    ],
  };
}

/** Words between commas; what stands in quotes is one. */
function listFrom({ parts }: Phrase): string[] {
  const list: string[][] = [[]];
  for (const { text, quoted } of parts) {
    if (text === ',' && !quoted) list.push([]);
    else list[list.length - 1]!.push(text);
  }
  return list.map((words) => words.join(' ')).filter((word) => word !== '');
}

const wordsOf = ({ parts }: Phrase): string => parts.map(({ text }) => text).join(' ');

function plainFrom(
  { column: left, sign, value }: Extract<Tree, { kind: 'comparison' }>,
  level: Level,
): Condition {
  if (sign === null) {
    const between = rangeFrom(left, level);
    if (between) return between;
    throw unreadable(
      columnFrom(left.text, level) === null
        ? `“${left.text}” is no column, and has no sign behind it.`
        : `Behind “${left.text}” a sign and a value are missing.`,
      left,
    );
  }
  const column = columnFrom(left.text, level);
  if (column === null) throw unreadable(`There is no column “${left.text}” here.`, left);
  const is = signs[sign]!;
  const kind = kindOf(readColumn(column, level)!);
  const allowed = kind === 'text' ? textOperators : numberOperators;
  if (!allowed.includes(is))
    throw unreadable(
      kind === 'text'
        ? `“${left.text}” holds words: contains, starts with, has words, matches, one of, =, is empty.`
        : `“${left.text}” holds ${kind === 'day' ? 'days' : 'numbers'}: >, >=, <, <=, =, is empty.`,
      left,
    );
  if (is === 'empty') {
    if (value) throw unreadable('Nothing can stand behind “is empty”.', value);
    return { column, is };
  }
  if (!value) throw unreadable('A value is missing here.', { from: left.to, to: left.to + sign.length + 1 });
  if (is === 'one_of') return { column, is, value: listFrom(value) };
  if (kind === 'text') return { column, is, value: wordsOf(value) };
  if (kind === 'day') {
    if (!isDay(value.text)) throw unreadable(`“${value.text}” is no day: write 2026-11-16.`, value);
    return { column, is, value: value.text };
  }
  const [, factor = '', other = ''] = /^([\d.,]+)\s*[x×*]\s*(.+)$/i.exec(value.text) ?? [];
  if (other !== '') {
    const times = columnFrom(other, level);
    const number = readNumber('number', factor);
    if (times === null || number === null)
      throw unreadable(`There is no column “${other}” to be multiplied.`, value);
    return { column, is, value: number, times };
  }
  const number = readNumber(kind, value.text);
  if (number === null) throw unreadable(`“${value.text}” is no number.`, value);
  return { column, is, value: number };
}

/** `not` of several is not of each: all becomes any. */
function negated(condition: Condition): Condition {
  if ('all' in condition) return { any: condition.all.map(negated) };
  if ('any' in condition) return { all: condition.any.map(negated) };
  const { not, ...plain } = condition;
  return not ? plain : { ...plain, not: true };
}

function conditionOf(tree: Tree, level: Level): Condition {
  switch (tree.kind) {
    case 'or':
      return { any: tree.list.map((one) => conditionOf(one, level)) };
    case 'and':
      return { all: tree.list.map((one) => conditionOf(one, level)) };
    case 'not':
      return negated(conditionOf(tree.of, level));
    case 'comparison':
      return plainFrom(tree, level);
  }
}

/** The condition that a typed text means, or what is wrong with it. "and" binds closer than "or". */
export function readCondition(text: string, level: Level): Typed {
  const parsed = parseCondition(text);
  if ('problem' in parsed) return parsed;
  try {
    return { condition: conditionOf(parsed.tree, level) };
  } catch (error) {
    if (!(error instanceof Unreadable)) throw error;
    return { problem: { message: error.message, from: error.from, to: error.to } };
  }
}

const refText = (ref: string, level: Level): string => {
  const column = readColumn(ref, level);
  if (!column) return ref;
  const { label } = column.column;
  if (column.frame === '') return label;
  return `${label} ${/^d\d/.test(column.frame) ? `${column.frame.slice(1)}d` : columnLabel(column).split(', ')[1]!}`;
};

/** Words as they are typed: in quotes when the grammar would take something of them for its own. */
const typedWords = (words: string): string =>
  /^[\p{L}\p{N}_-]+$/u.test(words) && !/^(and|or|not|contains|matches)$/i.test(words)
    ? words
    : `"${words.replace(/["\\]/g, '\\$&')}"`;

function plainText({ column: ref, is, value, times, not }: Plain, level: Level): string | null {
  const column = readColumn(ref, level);
  const sign = signOf.get(is);
  if (!column || sign === undefined) return null;
  const kind = kindOf(column);
  const shown =
    value === undefined
      ? ''
      : Array.isArray(value)
        ? value.map(typedWords).join(', ')
        : typeof value === 'string'
          ? kind === 'day'
            ? value
            : typedWords(value)
          : times === undefined
            ? fieldText(kind, value)
            : `${value} x ${refText(times, level)}`;
  return `${not ? 'not ' : ''}${refText(ref, level)} ${sign}${shown === '' ? '' : ` ${shown}`}`;
}

/**
 * A condition as it could be typed; null for what names columns that are not here.
 * @example typedText({ column: 'clicks', is: 'above', value: 12 }, 'targets') // 'Clicks > 12'
 */
export function typedText(condition: Condition, level: Level): string | null {
  if (!('all' in condition) && !('any' in condition)) return plainText(condition, level);
  const [list, word] = 'all' in condition ? [condition.all, 'and'] : [condition.any, 'or'];
  const texts = list.map((one) => {
    const text = typedText(one, level);
    return text !== null && ('all' in one || 'any' in one) ? `(${text})` : text;
  });
  return texts.includes(null) ? null : texts.join(` ${word} `);
}
