import type { NegativeType } from '../account/store.ts';
import type { MatchType } from './match.ts';
import { pluralForm, variantForm, variantWords, wordsOf } from '../text/normalise.ts';

type Type = MatchType | NegativeType;

/** Adds to a list in a map. */
function note<K>(map: Map<K, number[]>, key: K, place: number): void {
  const known = map.get(key);
  if (known) known.push(place);
  else map.set(key, [place]);
}

/**
 * Keywords or negatives by the thousand, told by number, looked up by a term: finds what `matches` would find one by
 * one (domain, section 7.4).
 */
export class MatchIndex {
  /** Exact keywords by their variant form, negative exacts by their plural form, phrases by their words. */
  private readonly exact = new Map<string, number[]>();
  private readonly negativeExact = new Map<string, number[]>();
  /** Item codes are never folded. */
  private readonly items = new Map<string, number[]>();
  private readonly phrases = new Map<string, number[]>();
  private longest = 0;
  private readonly broad: { words: string[]; place: number }[] = [];
  private readonly uses = new Map<string, number>();
  /** Broad keywords by their rarest word; made when a term is first asked for. */
  private byRarest: Map<string, number[]> | null = null;

  add(type: Type, text: string, place: number): void {
    const words = wordsOf(text);
    if (words.length === 0) return;
    switch (type) {
      case 'exact':
        return note(this.exact, variantForm(text), place);
      case 'negative_exact':
        return note(this.negativeExact, pluralForm(text), place);
      case 'negative_item':
        return note(this.items, words.join(' '), place);
      case 'phrase':
      case 'negative_phrase':
        this.longest = Math.max(this.longest, words.length);
        return note(this.phrases, words.join(' '), place);
      case 'broad': {
        const variants = [...new Set(variantWords(words))];
        for (const word of variants) this.uses.set(word, (this.uses.get(word) ?? 0) + 1);
        this.broad.push({ words: variants, place });
        this.byRarest = null;
      }
    }
  }

  private rarest(): Map<string, number[]> {
    if (this.byRarest) return this.byRarest;
    const made = new Map<string, number[]>();
    this.broad.forEach(({ words }, at) => {
      const first = words.reduce((a, b) => (this.uses.get(b)! < this.uses.get(a)! ? b : a));
      note(made, first, at);
    });
    return (this.byRarest = made);
  }

  /** Numbers of all that catch a term. */
  matching(term: string): number[] {
    const words = wordsOf(term);
    if (words.length === 0) return [];
    const found: number[] = [];
    const take = (places: number[] | undefined) => {
      if (places) for (const place of places) found.push(place);
    };
    if (this.exact.size > 0) take(this.exact.get(variantForm(term)));
    if (this.negativeExact.size > 0) take(this.negativeExact.get(pluralForm(term)));
    if (this.items.size > 0) take(this.items.get(words.join(' ')));
    if (this.phrases.size > 0) this.matchPhrases(words, take);
    if (this.broad.length > 0) this.matchBroad(words, found);
    return found;
  }

  private matchPhrases(words: string[], take: (places: number[] | undefined) => void): void {
    const seen = new Set<string>();
    for (let from = 0; from < words.length; from++) {
      let text = '';
      for (let to = from; to < Math.min(words.length, from + this.longest); to++) {
        text = to === from ? words[to]! : `${text} ${words[to]!}`;
        if (seen.has(text)) continue;
        seen.add(text);
        take(this.phrases.get(text));
      }
    }
  }

  private matchBroad(words: string[], found: number[]): void {
    const have = new Set(variantWords(words));
    const rarest = this.rarest();
    for (const word of have) {
      for (const at of rarest.get(word) ?? []) {
        const keyword = this.broad[at]!;
        if (keyword.words.every((one) => have.has(one))) found.push(keyword.place);
      }
    }
  }
}
