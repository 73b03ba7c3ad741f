import type { Column } from '../../../answers/imports.ts';
import { expect, test } from 'vitest';
import { Totals } from './totals.ts';

const columns = [
  { name: 'sku', type: 'text' },
  { name: 'title', type: 'text' },
  { name: 'clicks', type: 'count' },
  { name: 'spend', type: 'money' },
] as Column[];
const readers = columns.map(({ name, type }, at) => ({
  name,
  at,
  read: (text: string) => (type === 'text' ? text : Number(text)),
}));
const rows = () => {
  const totals = new Totals(readers, columns);
  totals.add({ sku: 'A', title: 'Lid', clicks: 10, spend: 4 });
  totals.add({ sku: 'B', title: 'Jar', clicks: 30, spend: 8 });
  return totals;
};

test.each([
  [['Total', '', '40', '12'], true],
  [['', 'Grand total', '40', '12'], true],
  // Nothing else says what it is about, whatever its sums.
  [['Sum', '', '', '99'], true],
  // Its sums tell, though a title stands beside.
  [['Total', 'all products', '40', '12.01'], true],
  [['Total Gym', 'Rowing machine', '7', '3'], false],
  [['SUM-100', 'Scale', '40', '3'], false],
  [['Total', 'Rowing machine', '', ''], false],
  [['Lid', '', '40', '12'], false],
])('%j', (cells, expected) => {
  expect(rows().holds(cells)).toBe(expected);
});

test('where the word is all that names a row, its sums decide', () => {
  const only = new Totals([readers[0]!, ...readers.slice(2)], columns);
  only.add({ sku: 'A', clicks: 10, spend: 4 });
  expect(only.holds(['Total', '', '10', '4'])).toBe(true);
  expect(only.holds(['Total', '', '3', '1'])).toBe(false);
});
