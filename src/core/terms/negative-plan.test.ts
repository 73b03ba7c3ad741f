import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { likenessSentence, ProductWords } from './likeness.ts';
import { negativeKey, planNegatives, type NegativePlace } from './negative-plan.ts';

const limits = {
  characters: 90,
  words: 10,
  pattern: "^[\\p{L}\\p{N} '\\-&.+]+$",
  itemCode: '^QY[0-9A-Z]{6}$',
  negatives: 1000,
};
const lids: NegativePlace = { campaignId: 'c1', adGroupId: '1', name: 'Lids broad' };
const campaign: NegativePlace = { campaignId: 'c2', adGroupId: null, name: 'Jars' };
const nothing = () => ({ keys: new Set<string>(), count: 0 });

describe('negatives as they are pasted', () => {
  test('each ends as a line or in a clear word: empty, long, emoji, right to left, punctuation, an item code', () => {
    const pasted = [
      'canning',
      '',
      'x'.repeat(300),
      '🫙 lids',
      'מכסה צנצנת',
      '!!!',
      'qy3n8p4c',
      'a b c d e f g h i j k',
      'Canning',
    ];
    const plan = planNegatives(pasted, 'negative_phrase', [lids], nothing, limits);
    expect(plan.planned.map(({ matchType, expression }) => [matchType, expression])).toEqual([
      ['negative_phrase', 'canning'],
      ['negative_phrase', 'מכסה צנצנת'],
      ['negative_item', 'QY3N8P4C'],
    ]);
    expect(plan.problems.map(({ line, message }) => [line, message])).toEqual([
      [3, 'It has 300 characters, 90 are the most.'],
      [4, 'It holds characters that a keyword may not have.'],
      [6, 'It has no letter or digit.'],
      [8, 'It has 11 words, 10 are the most.'],
    ]);
    expect(plan.problems[0]!.text).toHaveLength(80);
    expect(plan.repeated).toBe(1);
  });

  test('what stands is left out, in the plural too when exact; a phrase is its words', () => {
    const keys = new Set([
      negativeKey('negative_exact', 'canning jar'),
      negativeKey('negative_phrase', 'pressure'),
    ]);
    const standing = (place: NegativePlace) => (place === lids ? { keys, count: 2 } : nothing());
    const plan = planNegatives(
      ['canning jars', 'pressure'],
      'negative_exact',
      [lids, campaign],
      standing,
      limits,
    );
    expect(plan.planned.map(({ place, expression }) => [place.name, expression])).toEqual([
      ['Lids broad', 'pressure'],
      ['Jars', 'canning jars'],
      ['Jars', 'pressure'],
    ]);
    expect(plan.standing).toBe(1);
  });

  test('an ad group takes no more than the marketplace allows, and says how many are left; a campaign takes all', () => {
    const pasted = Array.from({ length: 10_000 }, (_, i) => `word${i}`);
    const standing = (place: NegativePlace) => ({ keys: new Set<string>(), count: place === lids ? 400 : 0 });
    const plan = planNegatives(pasted, 'negative_exact', [lids, campaign], standing, limits);
    expect(plan.planned.filter(({ place }) => place === lids)).toHaveLength(600);
    expect(plan.planned.filter(({ place }) => place === campaign)).toHaveLength(10_000);
    expect(plan.problems).toEqual([
      {
        line: 0,
        text: 'Lids broad',
        message: 'It holds at most 1000 negatives: 9400 find no room. Put them into its campaign instead.',
      },
    ]);
  });

  test('nothing is lost: every line that is not blank is planned, repeated, standing or a problem', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ maxLength: 120 }), { maxLength: 40 }), (pasted) => {
        const lines = pasted.map((line) => line.replace(/[\r\n]/g, ' '));
        const plan = planNegatives(lines, 'negative_phrase', [lids], nothing, limits);
        const told = lines.filter((line) => line.trim() !== '').length;
        expect(plan.planned.length + plan.repeated + plan.standing + plan.problems.length).toBe(told);
      }),
    );
  });
});

describe('likeness', () => {
  const words = new ProductWords('Airlock lids for wide jars, 4 pack', [
    { text: 'kimchi lids', orders: 3 },
    { text: 'lucky thing', orders: 1 },
    { text: 'canning lids', orders: 0 },
  ]);

  test('says which words are known from where, plurals as one', () => {
    expect(likenessSentence(words.of('jar lid for kimchi canning'))).toBe(
      '3 of 4 words are known: jar, lid (title); kimchi (terms that sold). Unknown: canning.',
    );
  });

  test('one order is no proof; a term without words has nothing to compare', () => {
    expect(words.of('lucky jar').share).toBe(0.5);
    expect(likenessSentence(words.of('🫙'))).toBe('It has no word to compare.');
    expect(likenessSentence(words.of('hose'))).toBe('0 of 1 word is known. Unknown: hose.');
  });
});
