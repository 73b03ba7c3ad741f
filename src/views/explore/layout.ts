import { fieldsAt } from '../../core/changes/fields.ts';
import type { Level } from '../../core/account/levels.ts';
import { readColumn, type ColumnRef } from '../../core/explore/columns.ts';
import type { ShownColumn } from './state.ts';

/** How wide columns are and which of them stay. */

export const markWidth = 34;

export interface TableColumn extends ColumnRef {
  ref: string;
  width: number;
  /** Distance from the left edge at which it stays; null when it scrolls. */
  left: number | null;
  /** Where its cells stand in the grid of a row, whichever of the others are there. */
  style: { gridColumnStart: number; left?: number };
}

const widths: Record<string, number> = {
  name: 186,
  verdict: 132,
  served: 190,
  blocked: 190,
  match_type: 84,
  gain: 122,
  impressions: 92,
  bid_history: 112,
};

const usualWidth = ({ column, frame }: ColumnRef): number => {
  const known = widths[column.name];
  if (known !== undefined) return known;
  if (column.kind === 'text') return column.choices ? 96 : 122;
  if (column.kind === 'day') return 104;
  if (column.label.length + (frame === '' ? 0 : 8) > 9) return 112;
  return column.kind === 'money' ? 86 : 72;
};

/** Columns with their widths; the first and pinned ones stay when the others scroll. */
export function layOut(shown: readonly ShownColumn[], level: Level): TableColumn[] {
  let left = markWidth;
  const list = shown.map((one, i) => ({ one, stays: i === 0 || one.pinned }));
  // What stays stands first, in its order.
  const ordered = [...list.filter(({ stays }) => stays), ...list.filter(({ stays }) => !stays)];
  let place = 2;
  return ordered.flatMap(({ one, stays }) => {
    const column = readColumn(one.ref, level);
    if (!column) return [];
    const width = one.width ?? usualWidth(column);
    const style = { gridColumnStart: place++, ...(stays ? { left } : {}) };
    const made = { ...column, ref: one.ref, width, left: stays ? left : null, style };
    if (stays) left += width;
    return [made];
  });
}

/** Levels at which a goal of its own can be set. */
const withGoals: readonly Level[] = ['account', 'products', 'campaigns'];

/** What can be changed in a cell at a level, the most usual first. */
export const editableColumns = (level: Level): string[] => [
  ...fieldsAt(level).map(({ name }) => name),
  ...(withGoals.includes(level) ? ['target_acos'] : []),
];

/** The column that a pasted list of values is meant for. */
export const pasteColumn = (level: Level): string | undefined =>
  fieldsAt(level).find(({ kind }) => kind === 'money' || kind === 'percent')?.name;
