import type { ColumnKind, ColumnRef } from '../../core/explore/columns.ts';
import type { Value } from '../../core/explore/conditions.ts';
import { count, decimal, money, percent, signedMoney } from '../../core/metrics/format.ts';
import { units } from '../../core/metrics/money.ts';

/** Values as people read them, and as they write them. */

const words: Record<string, string> = {
  under: 'under goal',
  over: 'over goal',
  down_only: 'down only',
  up_and_down: 'up and down',
};

/** The text of a cell; a dash for nothing. */
export function cellText({ column, frame }: ColumnRef, value: Value): string {
  if (value === null || value === undefined) return '–';
  if (typeof value === 'string') return words[value] ?? value.replaceAll('negative_', 'negative ');
  const signed = frame === 'diff' || frame === 'change' || column.name === 'last_change';
  const sign = signed && value > 0 ? '+' : '';
  if (frame === 'change' || column.kind === 'share') return `${sign}${percent(value)}`.replace('-', '−');
  switch (column.kind) {
    case 'money':
      return signed || column.name === 'gain' || column.name === 'ad_profit'
        ? signedMoney(value)
        : money(value);
    case 'number':
      return `${sign}${decimal(value)}`.replace('-', '−');
    default:
      return `${sign}${count(value)}`.replace('-', '−');
  }
}

export const isNumber = (kind: ColumnKind): boolean => kind !== 'text' && kind !== 'day';

/** What a spreadsheet gets for a cell: numbers in units, shares as shares, days as they are. */
export function plainValue({ column, frame }: ColumnRef, value: Value): string | number {
  if (value === null) return '';
  if (typeof value === 'string') return value;
  return column.kind === 'money' && frame !== 'change' ? units(value) : value;
}
