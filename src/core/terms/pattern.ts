import { RE2JS } from 're2js';

export const longestPattern = 300;

/**
 * Whether a text holds what a regular expression of a user says, whatever its case. The time grows with the length of the
 * text alone (finite automata, as RE2): no expression can stall whoever runs it. Throws an Error that says what is not
 * understood; look-around and references back have no such automaton.
 */
export function patternOf(expression: string): (text: string) => boolean {
  if (expression.length > longestPattern)
    throw new Error(`A regular expression has at most ${longestPattern} characters.`);
  let pattern: RE2JS;
  try {
    pattern = RE2JS.compile(RE2JS.translateRegExp(expression), RE2JS.CASE_INSENSITIVE);
  } catch (error) {
    const reason = (error as Error).message.replace(/^error parsing regexp: /, '');
    throw new Error(`"${expression}" is no regular expression that is understood here: ${reason}.`);
  }
  return (text) => pattern.test(text);
}
