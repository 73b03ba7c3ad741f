import fc from 'fast-check';
import { expect, test } from 'vitest';
import { sortRows } from './sorted.ts';

test('rows come in the same order page by page as all at once, nothing last in both directions', () => {
  const value = fc.option(fc.oneof(fc.integer({ min: 0, max: 30 }), fc.constant(Infinity)), { nil: null });
  fc.assert(
    fc.property(
      fc.array(value, { minLength: 1, maxLength: 12_000, size: 'max' }),
      fc.boolean(),
      fc.integer({ min: 1, max: 700 }),
      (values, descending, page) => {
        const rows = Int32Array.from(values.keys());
        const sorted = sortRows(rows, (row) => values[row]!, descending);
        const found: number[] = [];
        for (let at = 0; at < values.length; at += page) found.push(...sorted.slice(at, at + page));
        const plain = [...values.keys()].sort((a, b) => {
          const [x, y] = [values[a]!, values[b]!];
          if (x === null || y === null) return x === y ? a - b : x === null ? 1 : -1;
          return x === y ? a - b : (descending ? -1 : 1) * (x < y ? -1 : 1);
        });
        expect(found).toEqual(plain);
      },
    ),
    { numRuns: 30 },
  );
});

test('words sort as people read them, numbers within them by their value', () => {
  const words = ['pack of 12', 'pack of 2', null, 'Lid', 'lids'];
  const sorted = sortRows(Int32Array.from([0, 1, 2, 3, 4]), (row) => words[row]!, false);
  expect([...sorted.slice(0, 5)].map((row) => words[row])).toEqual([
    'Lid',
    'lids',
    'pack of 2',
    'pack of 12',
    null,
  ]);
});
