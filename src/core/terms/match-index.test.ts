import fc from 'fast-check';
import { expect, test } from 'vitest';
import cases from '../../../tests/fixtures/matching-cases.json' with { type: 'json' };
import type { NegativeType } from '../account/store.ts';
import { matches, type MatchType } from './match.ts';
import { MatchIndex } from './match-index.ts';

type Type = MatchType | NegativeType;

test.each(cases as [Type, string, string, boolean][])(
  'alone among others, %s “%s” and “%s”: %s',
  (type, keyword, term, expected) => {
    const index = new MatchIndex();
    index.add('broad', 'something else', 1);
    index.add(type, keyword, 7);
    expect(index.matching(term).includes(7)).toBe(expected);
  },
);

test('finds what the matcher finds one by one, each once', () => {
  const word = fc.constantFrom('airlock', 'lids', 'lid', 'crock', 'for', 'the', 'canning', '5', 'berries');
  const text = fc.array(word, { minLength: 1, maxLength: 4 }).map((list) => list.join(' '));
  const type = fc.constantFrom<Type>(
    'exact',
    'phrase',
    'broad',
    'negative_exact',
    'negative_phrase',
    'negative_item',
  );
  fc.assert(
    fc.property(fc.array(fc.tuple(type, text), { maxLength: 12 }), text, (keywords, term) => {
      const index = new MatchIndex();
      keywords.forEach(([one, keyword], place) => index.add(one, keyword, place));
      const expected = keywords.flatMap(([one, keyword], place) =>
        matches(one, keyword, term) ? [place] : [],
      );
      expect(index.matching(term).sort((a, b) => a - b)).toEqual(expected);
    }),
  );
});

test('what can be typed and has no words matches nothing and breaks nothing', () => {
  const index = new MatchIndex();
  for (const text of ['', '!!!', '🫙']) index.add('broad', text, 0);
  index.add('broad', 'crock', 1);
  for (const term of ['', '   ', '🫙🫙', '!?', 'x'.repeat(300)]) expect(index.matching(term)).toEqual([]);
  expect(index.matching('CROCK!')).toEqual([1]);
  expect(index.matching('שלום crock')).toEqual([1]);
});
