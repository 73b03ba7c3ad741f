import fc from 'fast-check';
import { expect, test } from 'vitest';
import { PairPlaces, Places } from './places.ts';

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
