import type { Level, Step } from '../core/account/levels.ts';
import type { Prior } from '../core/evidence/prior.ts';
import type { AcosInterval, Belief } from '../core/evidence/verdict.ts';
import type { Sums } from '../core/metrics/figures.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { Windows } from '../core/explore/columns.ts';
import type { Value } from '../core/explore/conditions.ts';

export interface TableRow {
  key: string;
  /** In the order of the columns asked for; "no sales" for an ACOS without an end. */
  values: Value[];
  /** Likely ACOS and goal, for the whisker; only when the verdict is among the columns. */
  interval?: AcosInterval | null;
  targetAcos?: number;
}

export interface TableAnswer {
  count: number;
  /** Of all rows that match, in the order of the columns. */
  totals: Value[];
  spend: Micros;
  rows: TableRow[];
  /** How many rows each level has inside the same object; null of terms, which are read only where they are shown. */
  rungs: Record<Level, number | null>;
  /** Where the table is: the objects it lies inside, from the top. */
  path: Step[];
  windows: Windows;
  milliseconds: number;
}

/** What is believed of one target or term, and what stands around it. */
export interface RowBelief extends Belief {
  name: string;
  place: string;
  sku: string | null;
  targetId: string;
  target: string;
  matchType: string | null;
  bid: Micros | null;
  prior: Prior;
  over: number | null;
  targetAcos: number;
  served: string | null;
  blocked: string | null;
}

export interface RowAnswer extends RowBelief {
  season: (Sums & { day: string })[];
  windows: (Sums & { days: number })[];
  bids: { day: string; bid: Micros }[];
  /** What else bids on the same text. */
  elsewhere: {
    adGroup: string;
    kind: string;
    matchType: string | null;
    bid: Micros | null;
    status: string;
  }[];
}
