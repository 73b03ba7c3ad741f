import type { Claim } from '../core/effect/claims.ts';
import type { Belief } from '../core/evidence/verdict.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { WordRow } from '../core/terms/word-verdicts.ts';
import type { Impact } from '../core/terms/negative-impact.ts';

/** What is answered of search terms: said once, for the server that sends it and the views that show it. */

export interface WordsAnswer {
  /** How many sequences match, of which the first are listed. */
  count: number;
  proposed: number;
  over: number;
  /** Terms counted, and their spend and orders in the window: what shares are of. */
  terms: number;
  /** Rows of terms left out, since a negative keeps them from what caught them by now. */
  blocked: number;
  spend: Micros;
  orders: number;
  /** Overspend a week of all that are proposed. */
  worth: Micros;
  rows: WordRow[];
  milliseconds: number;
}

/** One term with its sums, as lists of terms show it. */
export interface TermLine {
  term: string;
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
}

/** What a negative phrase would block, in a product or everywhere. */
export interface Collateral extends Omit<TermLine, 'term'> {
  words: string;
  terms: number;
  /** What is believed of all these terms together: what blocking them would lose. */
  belief: Belief;
  /** Terms that sold would be lost: those with most sales first. */
  sellers: TermLine[];
  /** Terms that did not sell, dearest first. */
  others: TermLine[];
  /** The same words in the other number, which a phrase lets through; dearest first. */
  twins: (Omit<TermLine, 'term'> & { words: string; terms: number })[];
  /** Keywords in use that it would keep from their searches. */
  keywords: { expression: string; matchType: string; adGroup: string }[];
  /** Running ad groups that caught such terms: where a negative would stand. */
  places: {
    adGroupId: string;
    adGroup: string;
    campaignId: string;
    campaign: string;
    spend: Micros;
    /** The clicks of a week that a phrase takes from the targets of this place. */
    claims: Claim[];
  }[];
}

/** A negative where it stands, with what it keeps away. */
export interface NegativeRow {
  id: string;
  matchType: string;
  expression: string;
  campaignId: string;
  campaign: string;
  /** Null for one of the whole campaign. */
  adGroupId: string | null;
  adGroup: string | null;
  impact: Impact;
}

/** Clicks, spend and orders of a list of terms together. */
export interface ListSums {
  clicks: number;
  spend: Micros;
  orders: number;
}
