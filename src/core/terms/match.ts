import type { NegativeType } from '../account/store.ts';
import { normalise, pluralForm, variantForm, variantWords, wordsOf } from '../text/normalise.ts';

export type MatchType = 'broad' | 'phrase' | 'exact';

const inARow = (needle: string[], hay: string[]): boolean =>
  needle.length > 0 && ` ${hay.join(' ')} `.includes(` ${needle.join(' ')} `);

/**
 * Whether a keyword or a negative of this type catches the term (domain, section 7.4).
 * @example matches('phrase', 'airlock lids', 'best airlock lids for jars') // true
 * @example matches('exact', 'airlock lids', 'airlock lid') // true
 */
export function matches(type: MatchType | NegativeType, keyword: string, term: string): boolean {
  const needle = wordsOf(keyword);
  const hay = wordsOf(term);
  if (needle.length === 0 || hay.length === 0) return false;
  switch (type) {
    case 'exact':
      return variantForm(keyword) === variantForm(term);
    case 'negative_exact':
      return pluralForm(keyword) === pluralForm(term);
    case 'negative_item':
      return needle.join(' ') === hay.join(' ');
    case 'phrase':
    case 'negative_phrase':
      return inARow(needle, hay);
    case 'broad': {
      const have = new Set(variantWords(hay));
      return variantWords(needle).every((word) => have.has(word));
    }
  }
}

export interface NegativeEntry {
  id: string;
  matchType: NegativeType;
  expression: string;
}

/**
 * The negatives of one place (ad group or campaign), indexed so that a term is looked up instead of compared with
 * each of them.
 */
export class NegativeIndex {
  private readonly whole = new Map<string, NegativeEntry>();
  /** Item codes are never folded. */
  private readonly items = new Map<string, NegativeEntry>();
  private readonly phrases = new Map<string, NegativeEntry>();
  private longest = 0;

  add(negative: NegativeEntry): void {
    if (negative.matchType === 'negative_item') {
      this.items.set(normalise(negative.expression), negative);
      return;
    }
    if (negative.matchType === 'negative_exact') {
      this.whole.set(pluralForm(negative.expression), negative);
      return;
    }
    const words = wordsOf(negative.expression);
    this.phrases.set(words.join(' '), negative);
    this.longest = Math.max(this.longest, words.length);
  }

  /** The negative that blocks the term, or null. */
  blocking(term: string): NegativeEntry | null {
    if (this.whole.size > 0) {
      const hit = this.whole.get(pluralForm(term));
      if (hit) return hit;
    }
    if (this.items.size > 0) {
      const hit = this.items.get(normalise(term));
      if (hit) return hit;
    }
    if (this.phrases.size === 0) return null;
    const words = wordsOf(term);
    for (let from = 0; from < words.length; from++) {
      for (let to = from + 1; to <= Math.min(words.length, from + this.longest); to++) {
        const hit = this.phrases.get(words.slice(from, to).join(' '));
        if (hit) return hit;
      }
    }
    return null;
  }
}

/** What the marketplace lets a keyword be (domain, section 14): data of the connection, not constants. */
export interface KeywordLimits {
  characters: number;
  words: number;
  /** A regular expression that the whole text must match. */
  pattern: string;
}

/** Patterns as they were compiled: thousands of terms are held against one. */
const patterns = new WeakMap<KeywordLimits, RegExp>();

function patternOf(limits: KeywordLimits): RegExp {
  let known = patterns.get(limits);
  if (!known) patterns.set(limits, (known = new RegExp(limits.pattern, 'u')));
  return known;
}

/** Why a term can't be a keyword, as a sentence; null when it can. */
export function whyNoKeyword(term: string, limits: KeywordLimits): string | null {
  const words = wordsOf(term);
  if (words.length === 0) return 'It has no letter or digit.';
  if (term.length > limits.characters) {
    return `It has ${term.length} characters, ${limits.characters} are the most.`;
  }
  if (words.length > limits.words) return `It has ${words.length} words, ${limits.words} are the most.`;
  if (!patternOf(limits).test(term)) return 'It holds characters that a keyword may not have.';
  return null;
}
