import fc from 'fast-check';
import { expect, test } from 'vitest';
import { storable, storableText } from './storable.ts';

test('NUL and half a surrogate pair are told as signs, everything else stays', () => {
  expect(storableText('a\u0000b')).toBe('a␀b');
  expect(storableText('half \ud83d')).toBe('half \ufffd');
  expect(storableText('whole 😀')).toBe('whole 😀');
  expect(storable({ rows: [{ cells: ['x\u0000', 1, null] }] })).toEqual({
    rows: [{ cells: ['x␀', 1, null] }],
  });
  expect(storable(undefined)).toBe(null);
});

test('whatever is made storable stays so, and says the same where it already was', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), (text) => {
      const once = storableText(text);
      expect(storableText(once)).toBe(once);
      if (!text.includes('\u0000')) expect(once).toBe(text);
    }),
  );
});
