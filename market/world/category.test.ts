import { describe, expect, test } from 'vitest';
import { isAsked, readCategory } from './category.ts';

const item = { price: 44, rating: 4.2, brand: 'Fenwold' };

describe('category targets', () => {
  test('are read with both ends of a range, one, or none', () => {
    expect(readCategory('fermenting crocks, price 44.00-, rating -4.2, brand Fenwold')).toEqual({
      category: 'fermenting crocks',
      price: [44, Infinity],
      rating: [0, 4.2],
      brand: 'Fenwold',
    });
    expect(readCategory('fermenting crocks')).toEqual({
      category: 'fermenting crocks',
      price: null,
      rating: null,
      brand: null,
    });
  });

  test.each([
    ['', 'names no category'],
    ['crocks, price -', 'narrows no category'],
    ['crocks, price 20-10', 'narrows no category'],
    ['crocks, cheap', 'narrows no category'],
  ])('"%s" is told', (text, said) => {
    expect(() => readCategory(text)).toThrow(said);
  });

  test.each([
    ['crocks, price 44-44', true],
    ['crocks, price -43.99', false],
    ['crocks, rating 4.3-', false],
    ['crocks, brand fenwold', true],
    ['crocks, brand Kelgarth', false],
  ])('%s: asked %s', (text, asked) => {
    expect(isAsked(item, readCategory(text))).toBe(asked);
  });
});
