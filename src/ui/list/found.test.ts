import { expect, test } from 'vitest';
import { found } from './found.ts';

const rows = [
  { name: 'Lids broad', sku: 'LID', spend: 5 },
  { name: 'Crock exact', sku: 'CRK', spend: 9 },
  { name: 'Brand', sku: null, spend: 5 },
];
const texts = ({ name, sku }: (typeof rows)[number]) => [name, sku];
const names = (list: readonly { name: string }[]) => list.map(({ name }) => name);

test('what is typed is looked for in every text, without regard to case; nothing typed holds all', () => {
  expect(names(found(rows, { text: 'crk', in: texts }))).toEqual(['Crock exact']);
  expect(names(found(rows, { text: 'BR', in: texts }))).toEqual(['Lids broad', 'Brand']);
  expect(found(rows, { text: null, in: texts })).toEqual(rows);
  expect(found(rows, { text: 'nobody', in: texts })).toEqual([]);
});

test('ordered by a figure or a word either way, what is alike by the next; what it was given stays', () => {
  const by = ({ spend }: (typeof rows)[number]) => spend;
  const then = (a: { name: string }, b: { name: string }) => (a.name < b.name ? -1 : 1);
  expect(names(found(rows, { text: '', in: texts, by, descending: true, then }))).toEqual([
    'Crock exact',
    'Brand',
    'Lids broad',
  ]);
  expect(names(found(rows, { text: '', in: texts, by: ({ name }) => name }))).toEqual([
    'Brand',
    'Crock exact',
    'Lids broad',
  ]);
  expect(names(rows)).toEqual(['Lids broad', 'Crock exact', 'Brand']);
});
