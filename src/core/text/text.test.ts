import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { looseForms, normalise, otherNumber, pluralForm, variantForm, wordsOf } from './normalise.ts';
import { plural, singular } from './plurals.ts';

describe('words of a text', () => {
  test('case, punctuation, repeated spaces and width do not matter; marks and digits do', () => {
    expect(normalise("  Canning-Jar's   LIDS, 70mm! ")).toBe('canning jars lids 70mm');
    expect(normalise('Ｊａｒ')).toBe('jar');
    expect(normalise('crème brûlée')).toBe('crème brûlée');
    expect(wordsOf('!!!')).toEqual([]);
  });

  test('plurals: the trade’s words, and words that only look like one', () => {
    expect(['jars', 'boxes', 'knives', 'berries', 'lenses', 'hoodies', 'men'].map(singular)).toEqual([
      'jar',
      'box',
      'knife',
      'berry',
      'lens',
      'hoodie',
      'man',
    ]);
    for (const word of ['basis', 'cactus', 'press', 'canvas', 'gas', 'v8s', 'us'])
      expect(singular(word)).toBe(word);
    expect(plural('jar')).toBe('jars');
    expect(plural('jars')).toBe('jars');
  });

  test('fillers go where they say nothing, and stay where they are half of the meaning', () => {
    expect(variantForm('lids for the canning jars')).toBe('lid canning jar');
    expect(variantForm('on off switches')).toBe('on off switch');
    expect(variantForm('vitamin a drops')).toBe('vitamin a drop');
    expect(variantForm('usb plug in')).toBe('usb plug in');
    expect(variantForm('for the')).toBe('the');
  });

  test('the same words in another number, where a negative phrase lets them through', () => {
    const find = otherNumber(['canning', 'jar']);
    expect(find('wide canning jars with lids')).toBe('canning jars');
    expect(find('wide canning jar')).toBeNull();
    expect(find('jars for canning')).toBeNull();
  });

  test('loosely alike: order, joined words, accents and units', () => {
    const [ordered, joined] = [looseForms('jar lids 70 mm'), looseForms('Lids jar 70mm')];
    expect(ordered[0]).toBe(joined[0]);
    expect(looseForms('air lock')[1]).toBe(looseForms('airlock')[1]);
    expect(looseForms('crème jar')[0]).toBe(looseForms('creme jars')[0]);
    expect(looseForms('5 litre jar')[0]).toBe(looseForms('5l jar')[0]);
    expect(looseForms('5 litre jar')[0]).not.toBe(looseForms('6 litre jar')[0]);
  });
});

const text = fc.oneof(
  fc.string({ unit: 'grapheme', maxLength: 40 }),
  fc
    .array(fc.constantFrom('canning', 'jars', 'jar', 'for', 'the', 'lids', 'on', 'off', '5l', 'a', 'men'), {
      maxLength: 7,
    })
    .map((words) => words.join(' ')),
);

describe('laws of forms', () => {
  test('a form is its own form', () => {
    fc.assert(
      fc.property(text, (one) => {
        for (const form of [normalise, pluralForm, variantForm]) {
          const once = form(one);
          // Whatever is left has no idle filler and no plural any more, but for what loses its neighbour.
          if (form !== variantForm) expect(form(once)).toBe(once);
          expect(normalise(once)).toBe(once);
        }
      }),
      { numRuns: 300 },
    );
  });

  test('one normal form: one plural form, one variant form, one loose form', () => {
    fc.assert(
      fc.property(text, (one) => {
        const same = ` ${one.toUpperCase().toLowerCase()}  `;
        if (normalise(same) !== normalise(one)) return;
        expect(pluralForm(same)).toBe(pluralForm(one));
        expect(variantForm(same)).toBe(variantForm(one));
        expect(looseForms(same)).toEqual(looseForms(one));
      }),
      { numRuns: 300 },
    );
  });
});
