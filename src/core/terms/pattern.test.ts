import fc from 'fast-check';
import { expect, test } from 'vitest';
import { patternOf } from './pattern.ts';

test.each([
  ['jar', 'Brewing JAR', true],
  ['^jar', 'brewing jar', false],
  ['^brew.*seal$', 'brewing jar with seal', true],
  ['\\bjar\\b', 'jars', false],
  ['(1|2)\\s?l', 'jar 2 l', true],
  ['\\p{L}{4}', 'pot', false],
  ['été', 'un ÉTÉ chaud', true],
  ['\\d{3}', 'B0 12', false],
])('%s in “%s”: %s', (expression, text, found) => {
  expect(patternOf(expression)(text)).toBe(found);
});

test.each([
  ['(', 'missing closing )'],
  ['(?=x)y', 'invalid or unsupported'],
  ['(a)\\1', 'invalid escape'],
  ['((a{100}){100}){100}', 'invalid repeat count'],
  ['x'.repeat(301), 'at most 300 characters'],
])('%s is refused with its reason', (expression, reason) => {
  expect(() => patternOf(expression)).toThrow(reason);
});

test('what would take a backtracking matcher for ever is answered', () => {
  for (const expression of ['^(\\w+\\s?)+$!', '(a+)+$', '(x+x+)+y', '^(a?){60}a{60}$'])
    expect(patternOf(expression)(`${'a'.repeat(50)} ${'x'.repeat(200)} !`)).toBe(false);
});

test('plain expressions find what the language itself finds', () => {
  const part = fc.constantFrom('a', 'b', '.', '[ab]', '(a|bc)', 'a?', 'b*', '^', '$', '\\s', '\\w+');
  const expression = fc.array(part, { minLength: 1, maxLength: 5 }).map((parts) => parts.join(''));
  const text = fc.array(fc.constantFrom('a', 'b', 'c', ' ', 'A'), { maxLength: 8 }).map((s) => s.join(''));
  fc.assert(
    fc.property(expression, text, (e, t) => {
      expect(patternOf(e)(t)).toBe(new RegExp(e, 'i').test(t));
    }),
  );
});
