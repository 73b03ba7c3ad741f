import type { Level } from '../../core/account/levels.ts';
import { readColumn } from '../../core/explore/columns.ts';
import type { Condition, Operator, Plain } from '../../core/explore/conditions.ts';
import { fieldText, kindOf as kindOfColumn, readNumber } from '../../core/explore/typed.ts';
import { isPlain } from './words.ts';

/** Conditions while their fields are being filled: a tree of drafts, as deep as a condition can be typed. */

/** A plain condition as it is being typed. */
export interface Draft {
  column: string;
  is: Operator;
  text: string;
  times: string;
  not: boolean;
}

export type Join = 'all' | 'any';
export type DraftTree = Draft | { join: Join; of: DraftTree[] };

export const isDraft = (tree: DraftTree): tree is Draft => !('join' in tree);
export const opposite = (join: Join): Join => (join === 'all' ? 'any' : 'all');

export const freshDraft: Draft = { column: 'acos', is: 'above', text: '', times: '', not: false };

export const kindOf = (ref: string, level: Level) => {
  const column = readColumn(ref, level);
  return column ? kindOfColumn(column) : 'text';
};

function draftOf({ column, is, value, times, not }: Plain, level: Level): Draft {
  const text =
    typeof value === 'number'
      ? times === undefined
        ? fieldText(kindOf(column, level), value)
        : String(value)
      : Array.isArray(value)
        ? value.join(', ')
        : (value ?? '');
  return { column, is, text, times: times ?? '', not: not ?? false };
}

export function treeOf(condition: Condition | null, level: Level): DraftTree {
  if (condition === null) return freshDraft;
  if (isPlain(condition)) return draftOf(condition, level);
  const join: Join = 'all' in condition ? 'all' : 'any';
  const list = 'all' in condition ? condition.all : condition.any;
  return tidy({ join, of: list.map((one) => treeOf(one, level)) }) ?? freshDraft;
}

/** The condition that a draft means; null while it means none. */
function plainOf({ column, is, text, times, not }: Draft, level: Level): Plain | null {
  const kind = kindOf(column, level);
  const about = { column, is, ...(not ? { not } : {}) };
  if (is === 'empty') return about;
  if (is === 'one_of') {
    const value = text.split(/[,\n]/).map((word) => word.trim());
    return { ...about, value: value.filter((word) => word !== '') };
  }
  if (kind === 'text' || kind === 'day') return text === '' ? null : { ...about, value: text };
  const value = times === '' ? readNumber(kind, text) : readNumber('number', text);
  return value === null ? null : { ...about, value, ...(times === '' ? {} : { times }) };
}

/** The condition of a whole tree; null while any of its fields is empty. */
export function conditionOf(tree: DraftTree, level: Level): Condition | null {
  if (isDraft(tree)) return plainOf(tree, level);
  const list = tree.of.map((one) => conditionOf(one, level));
  if (list.includes(null)) return null;
  return tree.join === 'all' ? { all: list as Condition[] } : { any: list as Condition[] };
}

/** A group of one is that one, a group in one that joins alike is part of it, an empty one is nothing. */
export function tidy(tree: DraftTree): DraftTree | null {
  if (isDraft(tree)) return tree;
  const of = tree.of
    .map(tidy)
    .filter((one) => one !== null)
    .flatMap((one) => (!isDraft(one) && one.join === tree.join ? one.of : [one]));
  if (of.length === 0) return null;
  return of.length === 1 ? of[0]! : { join: tree.join, of };
}

/** The tree with one more empty condition beside it, joined in this way. */
export const joined = (tree: DraftTree, join: Join): DraftTree =>
  !isDraft(tree) && tree.join === join
    ? { join, of: [...tree.of, freshDraft] }
    : { join, of: [tree, freshDraft] };
