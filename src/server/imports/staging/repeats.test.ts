import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Repeats } from './repeats.ts';

const told = (rows: readonly (readonly [string, number, number])[]): boolean => {
  const repeats = new Repeats();
  for (const [day, target, term] of rows) repeats.watch(day, target, term);
  return repeats.end();
};

test('the same target and term may come on every day, and once on each', () => {
  expect(told([])).toBe(false);
  expect(
    told([
      ['2026-11-01', 1, 1],
      ['2026-11-01', 1, 2],
      ['2026-11-02', 1, 1],
    ]),
  ).toBe(false);
  expect(
    told([
      ['2026-11-01', 1, 1],
      ['2026-11-01', 2, 1],
      ['2026-11-01', 1, 1],
    ]),
  ).toBe(true);
  // On the last day too.
  expect(
    told([
      ['2026-11-01', 3, 1],
      ['2026-11-02', 1, 7],
      ['2026-11-02', 1, 7],
    ]),
  ).toBe(true);
});

test('a day that comes again after another may repeat: Postgres looks', () => {
  expect(
    told([
      ['2026-11-01', 1, 1],
      ['2026-11-02', 1, 1],
      ['2026-11-01', 2, 2],
    ]),
  ).toBe(true);
});

test('of files in the order of their days it tells exactly', () => {
  const row = fc.tuple(fc.constantFrom('2026-11-01', '2026-11-02', '2026-11-03'), fc.nat(30), fc.nat(30));
  fc.assert(
    fc.property(fc.array(row, { maxLength: 60 }), (rows) => {
      const ordered = [...rows].sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0));
      const keys = new Set(rows.map((one) => one.join()));
      expect(told(ordered)).toBe(keys.size < rows.length);
    }),
  );
});

test('thousands of rows on one day are watched', () => {
  const rows = Array.from({ length: 5000 }, (_, i) => ['2026-11-01', i, 5000 - i] as const);
  expect(told(rows)).toBe(false);
  expect(told([...rows, ['2026-11-01', 77, 4923]])).toBe(true);
});
