import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { allToggled, focusPlace, isMarked, noMarks, rangeTo, toggled, withKeys } from './selection.ts';

describe('marks of a list', () => {
  test('a row is marked, a second press takes its mark away', () => {
    const once = toggled(noMarks, 'a', 3);
    expect(isMarked(once, 'a')).toBe(true);
    expect(once.anchor).toBe(3);
    expect(isMarked(toggled(once, 'a', 3), 'a')).toBe(false);
  });

  test('a range goes from the last one marked, in either direction', () => {
    const marks = toggled(noMarks, 'd', 3);
    expect(rangeTo(marks, 7)).toEqual([3, 7]);
    expect(rangeTo(marks, 1)).toEqual([1, 3]);
    const more = withKeys(marks, ['b', 'c', 'd'], 1);
    expect([...more.keys].sort()).toEqual(['b', 'c', 'd']);
    expect(more.anchor).toBe(1);
  });

  test('all are marked as one, also those that were never read; one more press and none is', () => {
    const all = allToggled(noMarks);
    expect(isMarked(all, 'never seen')).toBe(true);
    expect(isMarked(all, null)).toBe(false);
    expect(isMarked(allToggled(all), 'never seen')).toBe(false);
    // A single press after all were marked means that row alone.
    expect([...toggled(all, 'a', 0).keys]).toEqual(['a']);
    expect(toggled(all, 'a', 0).all).toBe(false);
  });

  test('whatever is pressed, a row that was pressed an odd number of times since is marked', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom('a', 'b', 'c'), { maxLength: 30 }), (presses) => {
        const marks = presses.reduce((old, key, at) => toggled(old, key, at), noMarks);
        for (const key of ['a', 'b', 'c'])
          expect(isMarked(marks, key)).toBe(presses.filter((one) => one === key).length % 2 === 1);
      }),
    );
  });
});

describe('focus of a list', () => {
  test('stands on its row, wherever that has gone to', () => expect(focusPlace(10, 7, 2)).toBe(7));
  test('stays at its place when its row has left', () => expect(focusPlace(10, -1, 2)).toBe(2));
  test('comes to the last row when the list grew shorter', () => expect(focusPlace(3, -1, 8)).toBe(2));
  test('is nowhere in an empty list', () => expect(focusPlace(0, -1, 0)).toBe(-1));
});
