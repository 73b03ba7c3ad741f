import { expect, test } from 'vitest';
import { preference } from './shoppers.ts';

test('visitors of a page like ours buy as they would; dearer and worse rated ones send them on', () => {
  const own = { price: 20, rating: 4.4 };
  expect(preference(own, own)).toBe(1);
  expect(preference(own, { price: 30, rating: 4.4 })).toBeCloseTo(1.5);
  // One star worse: exp(0.3) = 1.35; one star better: 0.74.
  expect(preference(own, { price: 20, rating: 3.4 })).toBeCloseTo(1.35, 2);
  expect(preference({ price: 20, rating: 3.4 }, { price: 20, rating: 4.4 })).toBeCloseTo(0.74, 2);
});

test('price alone moves it by no more than half down and double up', () => {
  const own = { price: 20, rating: 4 };
  expect(preference(own, { price: 200, rating: 4 })).toBe(2);
  expect(preference(own, { price: 1, rating: 4 })).toBe(0.4);
});
