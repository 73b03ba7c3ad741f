import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { assignSlots } from './useRecycled.ts';

const none = { of: new Map<number, number>(), free: [], order: [] };
const range = (from: number, count: number) => Array.from({ length: count }, (_, i) => from + i);

describe('rows that hand on their elements', () => {
  test('the row that comes takes the slot of the one that left; the others keep theirs', () => {
    const first = assignSlots(none, [0, 1, 2, 3], false);
    expect([...first.of]).toEqual([
      [0, 0],
      [1, 1],
      [2, 2],
      [3, 3],
    ]);
    const second = assignSlots(first, [1, 2, 3, 4], true);
    expect(second.of.get(4)).toBe(0);
    expect(second.order).toEqual([0, 1, 2, 3]);
  });

  test('at rest the elements stand in the order of the rows', () => {
    const moved = assignSlots(assignSlots(none, [0, 1, 2], false), [1, 2, 3], true);
    expect(assignSlots(moved, [1, 2, 3], false).order).toEqual([1, 2, 0]);
  });

  test('whatever is scrolled, every row has one slot and there are no more slots than rows were shown at once', () => {
    const step = fc.record({
      from: fc.integer({ min: 0, max: 200 }),
      count: fc.integer({ min: 0, max: 30 }),
      scrolling: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(step, { maxLength: 30 }), (steps) => {
        let slots = assignSlots(none, [], false);
        let most = 0;
        for (const { from, count, scrolling } of steps) {
          most = Math.max(most, count);
          slots = assignSlots(slots, range(from, count), scrolling);
          const used = [...slots.of.values()];
          expect(new Set(used).size).toBe(count);
          expect([...slots.order].sort()).toEqual([...used].sort());
          expect(Math.max(-1, ...used)).toBeLessThan(most);
        }
      }),
    );
  });
});
