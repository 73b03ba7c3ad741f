import fc from 'fast-check';
import { expect, test } from 'vitest';
import { PairPlaces, Places } from './places.ts';
import { sortRows } from './sorted.ts';

test('places by id hold every id, and nothing else, whether ids lie close or far apart', () => {
  const ids = fc.uniqueArray(fc.integer({ min: 0, max: 2 ** 31 - 1 }), { maxLength: 300 });
  const close = fc.uniqueArray(fc.integer({ min: 5_000_000, max: 5_000_400 }), { maxLength: 300 });
  fc.assert(
    fc.property(fc.oneof(ids, close), fc.integer({ min: 0, max: 2 ** 31 - 1 }), (known, other) => {
      const places = new Places(known);
      known.forEach((id, place) => expect(places.at(id)).toBe(place));
      if (!known.includes(other)) expect(places.at(other)).toBe(-1);
      for (const id of known) if (!known.includes(id + 1)) expect(places.at(id + 1)).toBe(-1);
    }),
  );
});

test('pairs keep the place at which they were first met, however many and however alike', () => {
  const small = fc.integer({ min: 0, max: 60 });
  const large = fc.integer({ min: 0, max: 2 ** 31 - 1 });
  const pairs = fc.array(fc.tuple(fc.oneof(small, large), fc.oneof(small, large)), {
    maxLength: 3000,
    size: 'max',
  });
  fc.assert(
    fc.property(pairs, (met) => {
      const places = new PairPlaces();
      const known = new Map<string, number>();
      for (const [left, right] of met) {
        const key = `${left}|${right}`;
        if (!known.has(key)) {
          expect(places.find(left, right)).toBe(-1);
          known.set(key, known.size);
        }
        expect(places.add(left, right)).toBe(known.get(key));
        expect(places.find(left, right)).toBe(known.get(key));
      }
      expect(places.count).toBe(known.size);
      const { left, right } = places.columns();
      expect([...left].map((one, i) => `${one}|${right[i]}`)).toEqual([...known.keys()]);
    }),
    { numRuns: 12 },
  );
});

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
