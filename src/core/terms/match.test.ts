import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import cases from '../../../tests/fixtures/matching-cases.json' with { type: 'json' };
import type { NegativeType } from '../account/store.ts';
import { matches, NegativeIndex, whyNoKeyword, type MatchType } from './match.ts';
import { looseForms, normalise, otherNumber, pluralForm, variantForm } from '../text/normalise.ts';
import { plural, singular } from '../text/plurals.ts';

test.each(cases as [MatchType | NegativeType, string, string, boolean][])(
  '%s “%s” and “%s”: %s',
  (type, keyword, term, expected) => {
    expect(matches(type, keyword, term)).toBe(expected);
  },
);

const word = fc.constantFrom(
  'airlock',
  'lids',
  'lid',
  'crock',
  'for',
  'glass',
  'weights',
  'canning',
  '5',
  'litre',
);
const text = fc.array(word, { minLength: 1, maxLength: 5 }).map((list) => list.join(' '));

describe('laws', () => {
  test('every term is caught by itself, in every match type', () => {
    fc.assert(
      fc.property(text, (term) => {
        for (const type of ['exact', 'phrase', 'broad', 'negative_exact', 'negative_phrase'] as const) {
          expect(matches(type, term, term)).toBe(true);
        }
      }),
    );
  });

  test('what exact catches, broad catches; what a negative exact blocks, an exact keyword would catch', () => {
    fc.assert(
      fc.property(text, text, (keyword, term) => {
        if (matches('exact', keyword, term)) expect(matches('broad', keyword, term)).toBe(true);
        if (matches('negative_exact', keyword, term)) expect(matches('exact', keyword, term)).toBe(true);
      }),
    );
  });

  test('normal forms are stable', () => {
    fc.assert(
      fc.property(fc.string(), (any) => {
        expect(normalise(normalise(any))).toBe(normalise(any));
      }),
    );
    expect(variantForm('Lids for the Jars')).toBe('lid jar');
    expect(pluralForm('Lids for the Jars')).toBe('lid for the jar');
  });

  test('the index blocks what the matcher blocks', () => {
    const type = fc.constantFrom('negative_exact' as const, 'negative_phrase' as const);
    fc.assert(
      fc.property(fc.array(fc.tuple(type, text), { maxLength: 6 }), text, (negatives, term) => {
        const index = new NegativeIndex();
        negatives.forEach(([matchType, expression], i) =>
          index.add({ id: String(i), matchType, expression }),
        );
        const expected = negatives.some(([matchType, expression]) => matches(matchType, expression, term));
        expect(index.blocking(term) !== null).toBe(expected);
      }),
    );
  });
});

describe('plurals', () => {
  test.each([
    ['lids', 'lid'],
    ['knives', 'knife'],
    ['houses', 'house'],
    ['boxes', 'box'],
    ['berries', 'berry'],
    ['hoodies', 'hoodie'],
    ['men', 'man'],
    ['feet', 'foot'],
  ])('%s is more than one %s', (many, one) => {
    expect([singular(many), singular(one), plural(one)]).toEqual([one, one, many]);
  });

  test.each(['lens', 'series', 'canvas', 'glass', 'cactus', 'tennis', 'ph', 'dvd5s', 'scissors'])(
    '%s is no plural',
    (word) => expect(singular(word)).toBe(word),
  );

  test('law: a singular is its own singular', () => {
    fc.assert(fc.property(word, (any) => singular(singular(any)) === singular(any)));
  });
});

test('a phrase lets the other number through, and finds it', () => {
  const other = otherNumber(['canning', 'jar']);
  expect(other('best canning jars with lids')).toBe('canning jars');
  expect(other('canning jar lids')).toBeNull();
  expect(other('jars for canning')).toBeNull();
  expect(matches('negative_phrase', 'canning jar', 'best canning jars with lids')).toBe(false);
});

describe('what the warning of close variants folds beyond matching', () => {
  test.each([
    ['crème jar', 'creme jars'],
    ['wide mouth lid', 'widemouth lids'],
    ['wide-mouth lid', 'wide mouth lids'],
    ['crock 5l', 'crock 5 litres'],
    ['5 liter crock', '5l crock'],
    ['lid for airlock', 'airlock lids'],
  ])('“%s” and “%s”', (one, other) => {
    const forms = looseForms(one);
    expect(looseForms(other).some((form) => forms.includes(form))).toBe(true);
  });

  test.each([
    ['crock 5l', 'crock 10l'],
    ['airlock lid', 'lid'],
    ['vitamin a', 'vitamin c'],
  ])('“%s” and “%s” stay apart', (one, other) => {
    const forms = looseForms(one);
    expect(looseForms(other).some((form) => forms.includes(form))).toBe(false);
  });
});

describe('why a term can be no keyword', () => {
  const limits = { characters: 90, words: 10, pattern: "^[\\p{L}\\p{N} '\\-&.+]+$" };
  test.each([
    ['airlock lids', null],
    ['!!!', 'It has no letter or digit.'],
    ['', 'It has no letter or digit.'],
    ['x'.repeat(300), 'It has 300 characters, 90 are the most.'],
    ['a b c d e f g h i j k', 'It has 11 words, 10 are the most.'],
    ['crock 🫙', 'It holds characters that a keyword may not have.'],
    ['crock / lid', 'It holds characters that a keyword may not have.'],
  ])('%s: %s', (term, reason) => {
    expect(whyNoKeyword(term, limits)).toBe(reason);
  });
});
