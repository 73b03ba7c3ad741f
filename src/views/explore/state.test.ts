import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { levels, type Level } from '../../core/account/levels.ts';
import { columnsOf } from '../../core/explore/columns.ts';
import type { Condition } from '../../core/explore/conditions.ts';
import { addressOf, addressProblems, below, ladder, readState, type ExploreState } from './state.ts';

/** The text of an address that says a state. */
function search(state: Partial<ExploreState>): string {
  const params = new URLSearchParams();
  for (const [name, value] of Object.entries(addressOf(state))) if (value !== null) params.set(name, value);
  return `?${params.toString()}`;
}

const stateOf = (level: Level): fc.Arbitrary<ExploreState> => {
  const shown = columnsOf(level).map(({ name }) => name);
  const figures = columnsOf(level).filter(({ kind, shownOnly }) => kind === 'count' && !shownOnly);
  const plain = fc.record({
    column: fc.constantFrom(...(figures.length > 0 ? figures.map(({ name }) => name) : ['name'])),
    is: fc.constant(figures.length > 0 ? 'above' : 'contains'),
    value: figures.length > 0 ? fc.nat(999) : fc.string({ minLength: 1, maxLength: 9 }),
  }) as fc.Arbitrary<Condition>;
  const where = fc.oneof(
    fc.constant(null),
    plain,
    fc.array(plain, { minLength: 1, maxLength: 3 }).map((all): Condition => ({ all })),
    fc.array(plain, { minLength: 1, maxLength: 3 }).map((any): Condition => ({ any })),
  );
  return fc.record({
    level: fc.constant(level),
    within: fc.oneof(
      fc.constant(null),
      fc.record({ level: fc.constantFrom(...levels), id: fc.string({ minLength: 1, maxLength: 12 }) }),
    ),
    where,
    columns: fc.uniqueArray(fc.constantFrom(...shown), { minLength: 1, maxLength: 6 }).chain((refs) =>
      fc.tuple(
        ...refs.map((ref) =>
          fc.record({
            ref: fc.constant(ref),
            width: fc.oneof(fc.constant(null), fc.integer({ min: 40, max: 600 })),
            pinned: fc.boolean(),
          }),
        ),
      ),
    ),
    sort: fc.constantFrom(...shown),
    descending: fc.boolean(),
  });
};

describe('what Explore shows stands in the address', () => {
  test('every state reads back from its address as it was, and nothing of it is called wrong', () => {
    fc.assert(
      fc.property(fc.constantFrom(...levels).chain(stateOf), (state) => {
        const address = search(state);
        expect(readState(address)).toEqual(state);
        expect(addressProblems(address)).toEqual([]);
      }),
    );
  });

  test('whatever is written into an address, something is shown, and what was left out is named', () => {
    const word = fc.string({ minLength: 1, maxLength: 20 });
    fc.assert(
      fc.property(word, word, word, word, (level, where, cols, sort) => {
        const address = `?${new URLSearchParams({ level, where, cols, sort }).toString()}`;
        const state = readState(address);
        expect(levels).toContain(state.level);
        expect(state.columns.length).toBeGreaterThan(0);
        const named = addressProblems(address).map(({ name }) => name);
        if (!levels.some((one) => one === level)) expect(named).toContain('level');
        if (state.where === null) expect(named).toContain('where');
      }),
    );
  });

  test('an empty address is campaigns by their spend', () => {
    expect(readState('')).toMatchObject({
      level: 'campaigns',
      within: null,
      where: null,
      sort: 'spend',
      descending: true,
    });
    expect(readState('?level=negatives')).toMatchObject({ sort: 'name', descending: false });
  });

  test('a condition that this level does not know is left out and said', () => {
    const address = search({
      level: 'campaigns',
      where: { column: 'match_type', is: 'equals', value: 'exact' },
    });
    expect(readState(address).where).toBeNull();
    expect(addressProblems(address)[0]).toMatchObject({ name: 'where' });
  });

  test('an empty stack of conditions takes them off the address', () => {
    expect(addressOf({ where: { all: [] } })).toEqual({ where: null });
    expect(addressOf({ sort: 'clicks', descending: true })).toEqual({ sort: '-clicks' });
    expect(addressOf({})).toEqual({});
  });

  test('rows lead down the ladder to the terms, and from there nowhere', () => {
    expect(below('products', 'LID')).toEqual({
      level: 'campaigns',
      within: { level: 'products', id: 'LID' },
    });
    expect(below('placements', 'c7:top_of_search')).toEqual({
      level: 'targets',
      within: { level: 'campaigns', id: 'c7' },
    });
    expect(below('terms', '3:4')).toBeNull();
    for (const level of ladder) {
      const next = below(level, '1');
      if (next) expect(ladder.indexOf(next.level)).toBeGreaterThan(ladder.indexOf(level));
    }
    expect([...ladder].sort()).toEqual([...levels].sort());
  });
});
