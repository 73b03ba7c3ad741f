import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { explainOf, usualOf } from './explains.ts';

describe('what is usual', () => {
  test('the middle half of 0 to 100 lies between 25 and 75', () => {
    const values = Array.from({ length: 101 }, (_, i) => 100 - i);
    expect(usualOf(values)).toEqual({ rows: 101, low: 25, middle: 50, high: 75 });
  });

  test('rows without a value, and spend without sales, are not among them', () => {
    expect(usualOf([null, 1, 2, 3, 4, Infinity])).toEqual({ rows: 4, low: 1.75, middle: 2.5, high: 3.25 });
  });

  test('fewer than four tell nothing', () => {
    expect(usualOf([1, 2, 3])).toBeNull();
    expect(usualOf([])).toBeNull();
  });

  test('whatever the values, the middle lies between the ends, and none of them beyond what was seen', () => {
    const values = fc.array(fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e9, max: 1e9 }), {
      minLength: 4,
    });
    fc.assert(
      fc.property(values, (list) => {
        const { low, middle, high, rows } = usualOf(list)!;
        expect(rows).toBe(list.length);
        expect(low).toBeLessThanOrEqual(middle);
        expect(middle).toBeLessThanOrEqual(high);
        expect(low).toBeGreaterThanOrEqual(Math.min(...list));
        expect(high).toBeLessThanOrEqual(Math.max(...list));
      }),
    );
  });

  test('a name that is no figure has no words', () => expect(explainOf('nonsense')).toBeNull());
});
