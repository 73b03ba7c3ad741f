import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Condition } from '../../core/explore/conditions.ts';
import { readCondition, typedText } from '../../core/explore/typed.ts';
import { conditionOf, freshDraft, joined, tidy, treeOf, type DraftTree } from './drafts.ts';

const level = 'targets';
const plain = fc.oneof(
  fc.record({
    column: fc.constantFrom('clicks', 'orders', 'clicks@d14'),
    is: fc.constantFrom('above', 'at_least', 'below', 'at_most', 'equals'),
    value: fc.nat(5000),
  }),
  fc.record({
    column: fc.constant('acos'),
    is: fc.constant('above'),
    value: fc.integer({ min: 1, max: 300 }).map((n) => n / 100),
  }),
  fc.record({
    column: fc.constant('name'),
    is: fc.constantFrom('contains', 'starts'),
    value: fc.constantFrom('lid', 'salt and pepper'),
  }),
) as fc.Arbitrary<Condition>;
const condition = fc.letrec<{ any: Condition }>((tie) => ({
  any: fc.oneof(
    { maxDepth: 4 },
    plain,
    fc.array(tie('any'), { minLength: 2, maxLength: 3 }).map((all): Condition => ({ all })),
    fc.array(tie('any'), { minLength: 2, maxLength: 3 }).map((any): Condition => ({ any })),
  ),
})).any;

/** Groups that join as the group around them do mean the same without a level of their own. */
function flat(one: Condition): Condition {
  if ('all' in one) return { all: one.all.map(flat).flatMap((part) => ('all' in part ? part.all : [part])) };
  if ('any' in one) return { any: one.any.map(flat).flatMap((part) => ('any' in part ? part.any : [part])) };
  return one;
}

describe('conditions in fields', () => {
  test('every condition, however deep, stands in fields and comes back the same', () => {
    fc.assert(
      fc.property(condition, (one) => {
        expect(conditionOf(treeOf(one, level), level)).toEqual(flat(one));
      }),
    );
  });

  test('what is chosen can be typed, and what is typed be chosen', () => {
    fc.assert(
      fc.property(condition, (one) => {
        const chosen = conditionOf(treeOf(one, level), level)!;
        const read = readCondition(typedText(chosen, level)!, level);
        expect(read).toEqual({ condition: chosen });
        expect('condition' in read && conditionOf(treeOf(read.condition, level), level)).toEqual(chosen);
      }),
    );
  });

  test('(a or b) and c is built field by field', () => {
    const draft = (text: string) => ({ ...freshDraft, column: 'clicks', text });
    let tree: DraftTree = draft('1');
    tree = joined(tree, 'any');
    expect(tree).toEqual({ join: 'any', of: [draft('1'), freshDraft] });
    expect(conditionOf(tree, level)).toBeNull();
    tree = { join: 'all', of: [{ join: 'any', of: [draft('1'), draft('2')] }, draft('3')] };
    const clicks = (value: number) => ({ column: 'clicks', is: 'above', value });
    expect(conditionOf(tree, level)).toEqual({ all: [{ any: [clicks(1), clicks(2)] }, clicks(3)] });
  });

  test('a group of one is that one, and an empty group is nothing', () => {
    expect(tidy({ join: 'all', of: [{ join: 'any', of: [freshDraft] }] })).toEqual(freshDraft);
    expect(tidy({ join: 'all', of: [{ join: 'any', of: [] }] })).toBeNull();
    const two: DraftTree = { join: 'all', of: [freshDraft, freshDraft] };
    expect(tidy({ join: 'all', of: [two, freshDraft] })).toEqual({
      join: 'all',
      of: [freshDraft, freshDraft, freshDraft],
    });
  });
});
