import type { Level } from '../../core/account/levels.ts';
import { columnLabel, readColumn } from '../../core/explore/columns.ts';
import type { Condition, Operator, Plain } from '../../core/explore/conditions.ts';
import { count, decimal, money, percent } from '../../core/metrics/format.ts';

/** Conditions as sentences. */

export const operatorWords: Record<Operator, string> = {
  above: 'above',
  at_least: 'at least',
  below: 'below',
  at_most: 'at most',
  equals: 'is',
  contains: 'contains',
  words: 'has the words',
  starts: 'starts with',
  matches: 'matches',
  one_of: 'is one of',
  empty: 'is empty',
};

const choiceWords: Record<string, string> = { under: 'under goal', over: 'over goal' };

/** "ACOS above 1.3 × its goal", "Campaign status is enabled". */
export function conditionWords(condition: Condition, level: Level): string {
  if ('all' in condition) {
    const inside = (one: Condition) =>
      'any' in one ? `(${conditionWords(one, level)})` : conditionWords(one, level);
    return condition.all.map(inside).join(' and ');
  }
  if ('any' in condition) return condition.any.map((one) => conditionWords(one, level)).join(' or ');
  const { column: ref, is, value, times, not } = condition;
  const column = readColumn(ref, level);
  const label = column ? columnLabel(column) : ref;
  const verb = `${not ? 'not ' : ''}${operatorWords[is]}`;
  if (is === 'empty') return not ? `${label} is not empty` : `${label} is empty`;
  if (Array.isArray(value)) return `${label} ${verb} ${value.join(', ')}`;
  if (typeof value === 'string') {
    const isText = is === 'contains' || is === 'words' || is === 'starts' || is === 'matches';
    return `${label} ${not && is === 'equals' ? 'is not' : verb} ${isText ? `“${value}”` : (choiceWords[value] ?? value)}`;
  }
  const number = value ?? 0;
  if (times !== undefined) {
    const factor = readColumn(times, level);
    return `${label} ${verb} ${decimal(number)} × ${factor ? columnLabel(factor) : times}`;
  }
  const kind = column?.frame === 'change' ? 'share' : column?.column.kind;
  const text = kind === 'money' ? money(number) : kind === 'share' ? percent(number) : count(number);
  return `${label} ${verb} ${text}`;
}

/** The plain conditions of the top, as they are shown beside each other. */
export const stackOf = (where: Condition | null): Condition[] =>
  where === null ? [] : 'all' in where ? where.all : [where];

export const withStack = (stack: Condition[]): Condition | null =>
  stack.length === 0 ? null : { all: stack };

export const isPlain = (condition: Condition): condition is Plain =>
  !('all' in condition) && !('any' in condition);
