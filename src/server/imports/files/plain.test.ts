import { expect, test } from 'vitest';
import { plainRows } from './plain.ts';

const read = (text: string) =>
  plainRows<'sku' | 'budget'>(new TextEncoder().encode(text), {
    noun: 'kit',
    most: 3,
    needs: [['sku'], ['budget']],
    hint: 'It has two columns.',
  });

test.each([
  ['commas', 'SKU,Budget\nA,60.50\n'],
  ['semicolons, with a decimal comma', 'sku;budget\n\nA;60,50\n'],
  ['tabs', 'sku\tbudget\nA\t60,50\n'],
])('cells parted by %s', (_, text) => {
  const [row] = read(text);
  expect(row!.record).toEqual({ sku: 'A', budget: expect.stringMatching(/^60[.,]50$/) });
  expect(row!.line).toBe(text.includes('\n\n') ? 3 : 2);
});

test.each([
  ['', 'There is no kit in this file.'],
  ['sku\nA', 'The column budget is missing. It has two columns.'],
  ['sku,budget\nA,1\nB,1\nC,1\nD,1', '4 rows, 3 are the most.'],
  ['sku,budget\n"A,1', 'This is no CSV that can be read'],
])('%j is told: %s', (text, said) => {
  expect(() => read(text)).toThrow(said);
});
