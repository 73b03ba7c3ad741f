import type { Prior } from '../evidence/prior.ts';
import type { AcosInterval, Belief } from '../evidence/verdict.ts';
import type { Sums } from '../metrics/figures.ts';
import type { Micros } from '../metrics/money.ts';
import type { Level, Windows } from './columns.ts';
import type { Value } from './conditions.ts';
import type { Edited } from './edits.ts';

/** What Explore answers: said once, for the server that sends it and the view that shows it. */

/** Where a table is, or an object on the way there. */
export interface Within {
  level: Level;
  id: string;
}

export interface Step extends Within {
  name: string;
}

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
  /** Where the table is: the objects it lies inside, from the top. */
  path: Step[];
  windows: Windows;
  milliseconds: number;
}

export interface PreviewRow extends Edited {
  key: string;
  name: string;
  place: string;
}

export interface Preview {
  changed: number;
  unchanged: number;
  /** How often each guard held a value, and why rows stay as they are. */
  held: Record<string, number>;
  problems: Record<string, number>;
  /** Expected change per week. */
  spend: Micros;
  sales: Micros;
  rows: PreviewRow[];
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
