import { describe, expect, test } from 'vitest';
import { unknownChoices } from './filters.tsx';

const few = { only: ['all', 'over'], sort: ['spend', 'clicks'] };

describe('what an address asks for and there is not', () => {
  test('is named, with what there is while that is little', () => {
    expect(unknownChoices('?only=nonsense', few)).toEqual([
      { name: 'only', problem: 'There is none called “nonsense”. There are all, over.' },
    ]);
    const many = Array.from({ length: 40 }, (_, at) => `c${at}`);
    expect(unknownChoices('?campaign=x', { campaign: many })[0]!.problem).toBe('There is none called “x”.');
  });

  test('an order may go down, and what is not asked for is no problem', () => {
    expect(unknownChoices('?sort=-clicks&other=1', few)).toEqual([]);
    expect(unknownChoices('?sort=-width', few)[0]!.name).toBe('sort');
    expect(unknownChoices('?only=', few)).toEqual([]);
  });

  test('while it is not known what there is, nothing is called wrong', () => {
    expect(unknownChoices('?sku=LID', { sku: null })).toEqual([]);
  });

  test('a long value is cut', () => {
    expect(unknownChoices(`?only=${'x'.repeat(90)}`, few)[0]!.problem).toContain(`“${'x'.repeat(40)}…”`);
  });
});
