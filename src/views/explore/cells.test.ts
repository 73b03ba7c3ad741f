import { describe, expect, test } from 'vitest';
import { readColumn } from '../../core/explore/columns.ts';
import { cellText, plainValue } from './cells.ts';
import { editableColumns, layOut, pasteColumn } from './layout.ts';
import { conditionWords, stackOf, withStack } from './words.ts';

const column = (ref: string) => readColumn(ref, 'targets')!;

describe('cells', () => {
  test.each([
    ['spend', 1_234_500_000, '1,234.50'],
    ['acos', 0.256, '26 %'],
    ['acos', Infinity, 'no sales'],
    ['clicks', 1200, '1,200'],
    ['gain', -5_000_000, '−5.00'],
    ['spend@diff', 2_000_000, '+2.00'],
    ['clicks@change', -0.25, '−25 %'],
    ['verdict', 'under', 'under goal'],
    ['spend', null, '–'],
  ])('%s of %s reads %s', (ref, value, text) => expect(cellText(column(ref), value)).toBe(text));

  test.each([
    ['spend', 1_234_500_000, 1234.5],
    ['acos', 0.256, 0.256],
    ['spend@change', 0.5, 0.5],
    ['name', 'airlock lids', 'airlock lids'],
    ['clicks', null, ''],
  ])('a spreadsheet gets %s of %s as %s', (ref, value, plain) =>
    expect(plainValue(column(ref), value)).toBe(plain),
  );
});

describe('columns as they stand', () => {
  const shown = (ref: string, more = {}) => ({ ref, width: null, pinned: false, ...more });

  test('what stays stands first, each after the other; all know their place in the row', () => {
    const columns = layOut(
      [shown('name'), shown('clicks', { width: 80 }), shown('spend', { pinned: true, width: 90 })],
      'targets',
    );
    expect(columns.map(({ ref }) => ref)).toEqual(['name', 'spend', 'clicks']);
    expect(columns.map(({ left }) => left)).toEqual([34, 34 + 186, null]);
    expect(columns.map(({ style }) => style.gridColumnStart)).toEqual([2, 3, 4]);
    expect(columns[2]!.width).toBe(80);
  });

  test('a column that this level does not have is not there', () => {
    expect(layOut([shown('name'), shown('match_type')], 'campaigns').map(({ ref }) => ref)).toEqual(['name']);
  });

  test('what can be changed in a cell, and pasted', () => {
    expect(editableColumns('targets')).toContain('bid');
    expect(editableColumns('campaigns')).toEqual(
      expect.arrayContaining(['daily_budget', 'end_date', 'target_acos']),
    );
    expect(pasteColumn('targets')).toBe('bid');
    expect(pasteColumn('terms')).toBeUndefined();
  });
});

describe('conditions as sentences', () => {
  test.each([
    [{ column: 'acos', is: 'above', value: 0.9 }, 'ACOS above 90 %'],
    [{ column: 'acos', is: 'above', value: 1.3, times: 'target_acos' }, /^ACOS above 1\.3 × /],
    [{ column: 'spend', is: 'at_least', value: 5_000_000, not: true }, 'Spend not at least 5.00'],
    [{ column: 'name', is: 'contains', value: 'lid' }, 'Name contains “lid”'],
    [{ column: 'name', is: 'one_of', value: ['a', 'b'] }, 'Name is one of a, b'],
    [{ column: 'last_seen', is: 'empty', not: true }, /is not empty$/],
    [{ column: 'verdict', is: 'equals', value: 'over' }, 'Verdict is over goal'],
  ] as const)('%j', (condition, words) => {
    const text = conditionWords(condition as never, 'targets');
    if (typeof words === 'string') expect(text).toBe(words);
    else expect(text).toMatch(words);
  });

  test('an or within an and stands in brackets', () => {
    const clicks = (value: number) => ({ column: 'clicks', is: 'above', value }) as const;
    const nested = { all: [clicks(1), { any: [clicks(2), clicks(3)] }] };
    expect(conditionWords(nested, 'targets')).toBe('Clicks above 1 and (Clicks above 2 or Clicks above 3)');
  });

  test('the stack at the top, taken apart and put together', () => {
    const one = { column: 'clicks', is: 'above', value: 1 } as const;
    expect(stackOf(null)).toEqual([]);
    expect(stackOf(one)).toEqual([one]);
    expect(withStack(stackOf({ all: [one, one] }))).toEqual({ all: [one, one] });
    expect(withStack([])).toBeNull();
  });
});
