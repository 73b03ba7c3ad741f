import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { dateOrders, decimalMarks, isTotal, readDate, readNumber } from './values.ts';

describe('numbers', () => {
  test.each([
    ['1234.5', '.', 1234.5],
    ['$1,234.50', '.', 1234.5],
    ['1.234,50 €', ',', 1234.5],
    ['€ 12,00', ',', 12],
    ['12.5%', '.', 12.5],
    ['(3.20)', '.', -3.2],
    ['-4', '.', -4],
    ['−4,5', ',', -4.5],
    ['EUR 3.10', '.', 3.1],
    ["1'234.50", '.', 1234.5],
    ['1 234,50', ',', 1234.5],
    ['1\u202f234,50', ',', 1234.5],
    ['.5', '.', 0.5],
    ['', '.', 0],
    ['-', '.', 0],
    ['–', ',', 0],
    ['n/a', '.', null],
    ['1,23', '.', null],
    ['12.3.4', '.', null],
    ['1,2345', '.', null],
    ['abc', '.', null],
    ['5-', '.', -5],
    ['+4', '.', 4],
    ['$-1.50', '.', -1.5],
    ['12-34', '.', null],
    ['2024-01-05', '.', null],
    ['05/11/2026', '.', null],
    ['--4', '.', null],
    ['(-4)', '.', null],
    ['12 34', '.', null],
    ['1,234.567,8', '.', null],
    ['1 234.567', ',', null],
    [`1${' '.repeat(5000)}x`, '.', null],
  ] as const)('%s with %s', (text, mark, expected) => {
    expect(readNumber(text, mark)).toBe(expected);
  });

  test('what is written in either manner reads back', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1e9 }), (cents) => {
        const value = cents / 100;
        const english = value.toLocaleString('en-US', { minimumFractionDigits: 2 });
        const german = value.toLocaleString('de-DE', { minimumFractionDigits: 2 });
        expect(readNumber(english, '.')).toBe(value);
        expect(readNumber(german, ',')).toBe(value);
      }),
    );
  });

  test('the decimal mark is found, or asked when it could be either', () => {
    expect(decimalMarks(['12', '3'])).toEqual(['.']);
    expect(decimalMarks(['1,234.50', '7'])).toEqual(['.']);
    expect(decimalMarks(['1.234,50'])).toEqual([',']);
    expect(decimalMarks(['3,5', '4'])).toEqual([',']);
    expect(decimalMarks(['1,234', '2,500'])).toEqual(['.', ',']);
  });
});

describe('dates', () => {
  test.each([
    ['2026-11-05', 'ymd', '2026-11-05'],
    ['20261105', 'ymd', '2026-11-05'],
    ['2026-11-05T10:00:00Z', 'ymd', '2026-11-05'],
    ['05/11/2026', 'dmy', '2026-11-05'],
    ['05/11/2026', 'mdy', '2026-05-11'],
    ['5.11.26', 'dmy', '2026-11-05'],
    ['Nov 5, 2026', 'ymd', '2026-11-05'],
    ['5 November 2026', 'ymd', '2026-11-05'],
    ['31/02/2026', 'dmy', null],
    ['2026-13-01', 'ymd', null],
    ['yesterday', 'ymd', null],
    ['', 'ymd', null],
  ] as const)('%s as %s', (text, order, expected) => {
    expect(readDate(text, order)).toBe(expected);
  });

  test('a day above 12 tells the order; without one it is asked', () => {
    expect(dateOrders(['03/04/2026', '25/04/2026'])).toEqual(['dmy']);
    expect(dateOrders(['03/25/2026'])).toEqual(['mdy']);
    expect(dateOrders(['03/04/2026', '05/06/2026'])).toEqual(['dmy', 'mdy']);
    expect(dateOrders(['2026-04-03'])).toEqual(['ymd']);
  });
});

test('total rows', () => {
  expect(['Total', 'Grand total', 'Summe', 'total:'].every(isTotal)).toBe(true);
  expect(['totally blue lid', 'summer jar', '2026-01-01'].some(isTotal)).toBe(false);
});
