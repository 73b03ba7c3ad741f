import type { NegativeType } from '../core/account/store.ts';
import type { Claim } from '../core/effect/claims.ts';
import type { Belief } from '../core/evidence/verdict.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { WordRow } from '../core/terms/word-verdicts.ts';
import type { ChangedTerm } from '../core/terms/new-terms.ts';
import type { Conflict, ConflictKind } from '../core/terms/conflicts.ts';
import type { Coverage } from '../core/terms/coverage.ts';
import type { Likeness } from '../core/terms/likeness.ts';
import type { NegativePlan } from '../core/terms/negative-plan.ts';
import type { Window } from '../core/metrics/days.ts';
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

/** What the account would do with a term: what catches it, what blocks it, in which order and why. */
export interface CoverageAnswer extends Coverage {
  isItem: boolean;
  /** The term as it is compared. */
  normal: string;
  whyNoKeyword: string | null;
  /** How like its words are to each product, the most alike first. */
  likeness: (Likeness & { sku: string; title: string; sentence: string })[];
}

/** A conflict that waits; `lines`: how many its repair would put onto the sheet. */
export type ConflictRow = Omit<Conflict, 'drafts'> & { lines: number };

export interface ConflictsAnswer {
  kinds: Record<ConflictKind, string>;
  conflicts: ConflictRow[];
  putOff: number;
  onSheet: number;
}

/** Terms that appeared in the window and terms that stopped before it; how many and their sums, of which the first are listed. */
export interface AppearancesAnswer {
  fresh: ChangedTerm[];
  stopped: ChangedTerm[];
  freshCount: number;
  stoppedCount: number;
  freshSums: ListSums;
  stoppedSums: ListSums;
  window: { terms: number; spend: Micros; orders: number };
  before: { terms: number; spend: Micros; orders: number };
  windows: { window: Window; comparison: Window };
}

/** A running ad group with its campaign and product: where negatives can stand. */
export interface NegativePlaceRow {
  campaignId: string;
  campaign: string;
  adGroupId: string;
  adGroup: string;
  sku: string | null;
}

/** A list of negatives under a name, with how many it has and how many campaigns it is attached to. */
export interface NegativeListRow {
  id: number;
  name: string;
  entries: number;
  campaigns: number;
}

export interface NegativesAnswer {
  negatives: NegativeRow[];
  places: NegativePlaceRow[];
  lists: NegativeListRow[];
}

/** A list with how many of its negatives are missing in its campaigns, and how many stand there. */
export interface NegativeListAnswer {
  id: number;
  name: string;
  entries: { matchType: NegativeType; expression: string }[];
  campaignIds: string[];
  missing: number;
  standing: number;
}

/** What adding negatives would put onto the sheet, and what is wrong with which line. */
export interface NegativesPreview extends Omit<NegativePlan, 'planned'> {
  lines: number;
  places: number;
}
