import type { Day, Window } from '../core/metrics/days.ts';
import type { BidChange, BidStep } from '../core/effect/bid-history.ts';
import type { Sums } from '../core/metrics/figures.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { Step } from '../core/round/explain.ts';
import type { QueueRow } from '../core/round/queue.ts';
import type { Finding } from '../core/round/types.ts';
import type { SeasonDay } from './account.ts';

/** What endpoints of the round answer. */

/** The findings of a window that wait for a decision, worth most first, as queues show them. */
export interface QueueAnswer {
  today: Day;
  settledTo: Day | null;
  /** The part of the window that was judged; null when nothing of it is settled yet. */
  window: Window | null;
  findings: QueueRow[];
  /** How many wait, of those here. */
  left: number;
  /** How many there are of each queue, those beyond what is told included. */
  counts: Record<'terms' | 'targets', number>;
  later: number;
  skipped: number;
  onSheet: number;
  /** Findings kept out by a loss that is borne on purpose, and what these lose a week. */
  tolerated: { count: number; loss: Micros };
  /** What on the open sheet settles a finding, in words, by its key. */
  covered: Record<string, string>;
  targets: number;
  terms: number;
  adGroups: Record<string, { name: string; campaignId: string; campaign: string; sku: string | null }>;
  /** Titles by SKU. */
  products: Record<string, string>;
  /** What is odd about the account, in sentences. */
  notices: string[];
}

/** What waits beside terms and targets: words and conflicts, which take longer to find. */
export interface WiderAnswer {
  findings: QueueRow[];
  covered: Record<string, string>;
  later: number;
  skipped: number;
  onSheet: number;
}

/** Everything the why panel shows of one finding. */
export interface WhyAnswer {
  finding: Finding;
  sentence: string;
  working: Step[];
  season: SeasonDay[];
  bids: BidStep[];
  /** What became of every change of the bid. */
  changes: BidChange[];
  windows: (Sums & { days: number })[];
  /** Where else the same is bid on. */
  relations: {
    adGroup: string;
    kind: string;
    matchType: string | null;
    bid: Micros | null;
    status: string;
  }[];
  /** Theta of its scope as last steered; undefined before the first round. */
  theta?:
    | {
        day: Day;
        theta: number;
        reason: string;
        expected_acos: number | null;
        in_force: number | null;
      }
    | undefined;
}
