import type { Level } from '../account/levels.ts';
import { units } from '../metrics/money.ts';
import { columnLabel, columnsOf, readColumn, type ColumnKind, type ColumnRef } from './columns.ts';
import type { Condition, Operator, Plain } from './conditions.ts';

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

/** A typed number in the unit of its column: 0.45 as micros, 75 (%) as 0.75. Null for what is no number. */
export function readNumber(kind: ColumnKind, text: string): number | null {
  const value = numeric(text);
  if (!Number.isFinite(value)) return null;
  return kind === 'money' ? Math.round(value * 1e6) : kind === 'share' ? value / 100 : value;
}

/** A value as it is typed: the other way round. */
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
  'starts with': 'starts',
};
const signOf = new Map(Object.entries(signs).map(([sign, operator]) => [operator, sign]));
const comparison = /^(.+?)\s*(>=|<=|≥|≤|>|<|=|\scontains\s|\sstarts with\s)\s*(.+)$/i;
const range = /^(.+?)\s+([\d.,]+)\s*%?\s*(?:\.\.|to|–)\s*([\d.,]+)\s*%?$/i;

/** A column by its name or label, with its days behind it: "spend", "Ad profit", "acos 14d", "clicks before". */
function columnFrom(text: string, level: Level): string | null {
  const [, name = '', days = '', word = ''] =
    /^(.+?)(?:\s+(\d{1,3})\s*d(?:ays)?|\s+(before|difference|change))?$/i.exec(text.trim()) ?? [];
  const low = name.trim().toLowerCase().replace(/^its /, '');
  const found = columnsOf(level).find(
    (column) => column.label.toLowerCase() === low || column.name === low.replaceAll(' ', '_'),
  );
  if (!found) return null;
  const frame =
    days !== '' ? `@d${days}` : word === '' ? '' : `@${word.toLowerCase().replace('difference', 'diff')}`;
  const ref = `${found.name}${frame}`;
  return readColumn(ref, level) ? ref : null;
}

function plainFrom(text: string, level: Level): Condition | null {
  const between = range.exec(text);
  if (between) {
    const column = columnFrom(between[1]!, level);
    const kind = column === null ? 'text' : kindOf(readColumn(column, level)!);
    const [from, to] = [readNumber(kind, between[2]!), readNumber(kind, between[3]!)];
    if (column === null || kind === 'text' || from === null || to === null) return null;
    return {
      all: [
        { column, is: 'at_least', value: from },
        { column, is: 'below', value: to },
      ],
    };
  }
  const parts = comparison.exec(text);
  if (!parts) return null;
  const column = columnFrom(parts[1]!, level);
  const is = signs[parts[2]!.trim().toLowerCase()];
  if (column === null || !is) return null;
  const kind = kindOf(readColumn(column, level)!);
  const value = parts[3]!.trim();
  const textual = is === 'contains' || is === 'starts';
  if (kind === 'text') {
    return textual || is === 'equals' ? { column, is, value: value.replace(/^["“]|["”]$/g, '') } : null;
  }
  if (textual) return null;
  if (kind === 'day') return { column, is, value };
  const [, factor = '', other = ''] = /^([\d.,]+)\s*[x×*]\s*(.+)$/i.exec(value) ?? [];
  if (other !== '') {
    const times = columnFrom(other, level);
    const number = readNumber('number', factor);
    return times === null || number === null ? null : { column, is, value: number, times };
  }
  const number = readNumber(kind, value);
  return number === null ? null : { column, is, value: number };
}

/** The condition that a typed text means; null for what means none. "and" binds closer than "or". */
export function readCondition(text: string, level: Level): Condition | null {
  const split = (
    parts: string[],
    read: (part: string) => Condition | null,
    join: 'all' | 'any',
  ): Condition | null => {
    const list = parts.map((part) => read(part.trim()));
    if (list.includes(null)) return null;
    const made = list as Condition[];
    return made.length === 1 ? made[0]! : ({ [join]: made } as Condition);
  };
  return split(
    text.split(/\s+or\s+/i),
    (part) => split(part.split(/\s+and\s+|;\s*/i), (one) => plainFrom(one, level), 'all'),
    'any',
  );
}

const refText = (ref: string, level: Level): string => {
  const column = readColumn(ref, level);
  if (!column) return ref;
  const { label } = column.column;
  if (column.frame === '') return label;
  return `${label} ${/^d\d/.test(column.frame) ? `${column.frame.slice(1)}d` : columnLabel(column).split(', ')[1]!}`;
};

function plainText({ column: ref, is, value, times, not }: Plain, level: Level): string | null {
  const column = readColumn(ref, level);
  const sign = signOf.get(is);
  if (!column || not || sign === undefined || Array.isArray(value)) return null;
  const number = typeof value === 'number';
  const shown = !number ? value : times === undefined ? fieldText(kindOf(column), value) : String(value);
  return `${refText(ref, level)} ${sign} ${shown ?? ''}${times === undefined ? '' : ` x ${refText(times, level)}`}`;
}

/** A condition as it could be typed; null for what has no typed form. */
export function typedText(condition: Condition, level: Level): string | null {
  const join = (list: Condition[], word: string): string | null => {
    const texts = list.map((one) => typedText(one, level));
    return texts.includes(null) ? null : texts.join(` ${word} `);
  };
  if ('all' in condition)
    return condition.all.some((one) => 'any' in one) ? null : join(condition.all, 'and');
  if ('any' in condition) return join(condition.any, 'or');
  return plainText(condition, level);
}
