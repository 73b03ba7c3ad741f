import { isFiller, wordsOf } from '../text/normalise.ts';
import { singular } from '../text/plurals.ts';

/** Where a word of a term is known from. */
export interface KnownWord {
  word: string;
  from: 'title' | 'proven' | 'unknown';
  /** Orders of the proven terms that have it. */
  orders: number;
}

/** How much of a term's words the product's title and its proven terms know: a hint, it never decides alone. */
export interface Likeness {
  words: KnownWord[];
  /** Share of its words that are known, 0-1. */
  share: number;
}

/** Words of what is sold: of the title, and of terms that sold, with their orders. Plurals are one word. */
export class ProductWords {
  private readonly title: Set<string>;
  private readonly proven = new Map<string, number>();

  constructor(title: string, terms: Iterable<{ text: string; orders: number }>) {
    this.title = new Set(wordsOf(title).map(singular));
    for (const { text, orders } of terms) {
      if (orders <= 0) continue;
      for (const word of new Set(wordsOf(text).map(singular)))
        this.proven.set(word, (this.proven.get(word) ?? 0) + orders);
    }
  }

  /** Words of two orders and more count as proven: one order may be luck. */
  of(term: string): Likeness {
    const words = wordsOf(term).filter((word) => !isFiller(word));
    const known = words.map((word): KnownWord => {
      const one = singular(word);
      const orders = this.proven.get(one) ?? 0;
      return { word, from: this.title.has(one) ? 'title' : orders >= 2 ? 'proven' : 'unknown', orders };
    });
    const share =
      known.length === 0 ? 0 : known.filter(({ from }) => from !== 'unknown').length / known.length;
    return { words: known, share };
  }
}

/** "2 of 3 words are known: airlock, lids (title). Unknown: canning." */
export function likenessSentence({ words, share }: Likeness): string {
  if (words.length === 0) return 'It has no word to compare.';
  const list = (from: KnownWord['from']) => words.filter((one) => one.from === from).map(({ word }) => word);
  const parts = [
    list('title').length > 0 ? `${list('title').join(', ')} (title)` : '',
    list('proven').length > 0 ? `${list('proven').join(', ')} (terms that sold)` : '',
  ].filter((part) => part !== '');
  const known = Math.round(share * words.length);
  const unknown = list('unknown');
  return (
    `${known} of ${words.length} word${words.length === 1 ? '' : 's'} ${words.length === 1 ? 'is' : 'are'} known` +
    `${parts.length > 0 ? `: ${parts.join('; ')}` : ''}.` +
    `${unknown.length > 0 ? ` Unknown: ${unknown.join(', ')}.` : ''}`
  );
}
