import { expect, test } from 'vitest';
import { lagText, readLags, writeLags } from './lanes.ts';

test('lags go through the address unharmed; what is none is left out', () => {
  expect(readLags('rank:3,revenue:-5')).toEqual({ rank: 3, revenue: -5 });
  expect(writeLags({ revenue: -5, rank: 3, units: 0 })).toBe('rank:3,revenue:-5');
  expect(writeLags({})).toBeNull();
  expect(readLags('rank:x,nothing:4,units:99,spend:1.5,searches:0,,')).toEqual({});
  expect(readLags(null)).toEqual({});
});

test('a lag in words', () => {
  expect(lagText(1)).toBe('1 day later');
  expect(lagText(-3)).toBe('3 days earlier');
});
