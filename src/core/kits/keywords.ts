import type { Micros } from '../metrics/money.ts';
import { whyNoKeyword, type KeywordLimits } from '../terms/match.ts';
import { NegativeIndex, type NegativeEntry } from '../terms/match.ts';
import { ProductWords } from '../terms/likeness.ts';
import { normalise } from '../text/normalise.ts';

/** One keyword of a kit as it was given, before it is checked. */
export interface KitKeyword {
  text: string;
  /** Its bid wherever it is used, micros; null: the first bid of each part. */
  bid: Micros | null;
}

/** Why a keyword is not used as it stands. */
export interface KeywordCheck {
  /** It cannot be used: what is wrong with it, as a sentence. */
  wrong: string | null;
  /** Another keyword of the kit, before it, says the same. */
  repeats: boolean;
  /** Where the product has it already, by match type: names of ad groups. */
  served: readonly { matchType: string; adGroup: string }[];
  /** The excluded term that would keep it from being shown. */
  blockedBy: string | null;
  /** Ad groups of the product whose negatives would keep it from being shown there. */
  blockedIn: readonly { adGroup: string; by: string }[];
  /** Share of its words that title and proven terms know, 0 to 1. */
  likeness: number;
}

/** What a product's keywords are checked against. */
export interface KeywordContext {
  limits: KeywordLimits;
  title: string;
  /** Terms that sold for it, with their orders. */
  proven: readonly { text: string; orders: number }[];
  /** Keywords that the product runs already. */
  served: readonly { text: string; matchType: string; adGroup: string }[];
  /** Ad groups that bid on its keywords, with their negatives. */
  blocking: readonly { adGroup: string; negatives: readonly Omit<NegativeEntry, 'id'>[] }[];
}

/** Splits what was pasted into keywords: line breaks, commas, semicolons and tabs part them, quotes and bullets go. */
export function pastedKeywords(text: string): string[] {
  return text
    .split(/[\n\r\t,;]+/)
    .map((part) =>
      part
        .trim()
        .replace(/^[-•*–—]\s+/, '')
        .replace(/^["“”'[](.*)["“”'\]]$/, '$1')
        .replace(/\s+/g, ' ')
        .trim(),
    )
    .filter((part) => part !== '');
}

/** Checks keywords of one product; what was checked once is known. */
export class KeywordChecker {
  private readonly words: ProductWords;
  private readonly served = new Map<string, { matchType: string; adGroup: string }[]>();
  private readonly blocking: { adGroup: string; index: NegativeIndex }[];
  private readonly known = new Map<
    string,
    { key: string; wrong: string | null; likeness: number; blockedIn: KeywordCheck['blockedIn'] }
  >();

  constructor(private readonly context: KeywordContext) {
    this.words = new ProductWords(context.title, context.proven);
    this.blocking = context.blocking.map(({ adGroup, negatives }) => {
      const index = new NegativeIndex();
      negatives.forEach((negative, at) => index.add({ id: String(at), ...negative }));
      return { adGroup, index };
    });
    for (const { text, matchType, adGroup } of context.served) {
      const key = normalise(text);
      this.served.set(key, [...(this.served.get(key) ?? []), { matchType, adGroup }]);
    }
  }

  private about(text: string) {
    let known = this.known.get(text);
    if (!known) {
      known = {
        key: normalise(text),
        wrong: whyNoKeyword(text, this.context.limits),
        likeness: this.words.of(text).share,
        blockedIn: this.blocking.flatMap(({ adGroup, index }) => {
          const by = index.blocking(text)?.expression;
          return by === undefined ? [] : [{ adGroup, by }];
        }),
      };
      this.known.set(text, known);
    }
    return known;
  }

  /** Checks a whole list in its order; `excluded`: phrases that nothing of the kit shall be shown for. */
  check(texts: readonly string[], excluded: readonly string[]): KeywordCheck[] {
    const negatives = new NegativeIndex();
    excluded.forEach((expression, at) =>
      negatives.add({ id: String(at), matchType: 'negative_phrase', expression }),
    );
    const seen = new Set<string>();
    return texts.map((text) => {
      const { key, wrong, likeness, blockedIn } = this.about(text);
      const repeats = wrong === null && seen.has(key);
      seen.add(key);
      return {
        wrong,
        repeats,
        served: this.served.get(key) ?? none,
        blockedBy: excluded.length === 0 ? null : (negatives.blocking(text)?.expression ?? null),
        blockedIn,
        likeness,
      };
    });
  }
}

const none: readonly never[] = [];

/** Whether a keyword can go into a part of this match type. */
export const isUsable = (check: KeywordCheck, matchType: string): boolean =>
  check.wrong === null &&
  !check.repeats &&
  check.blockedBy === null &&
  !check.served.some((one) => one.matchType === matchType);
