import type { Adjustment } from '../../core/round/lines.ts';
import type { QueueAnswer } from '../../answers/round.ts';
import type { Sums } from '../../core/metrics/figures.ts';
import type { Step } from '../../core/round/explain.ts';
import type { QueueRow } from '../../core/round/queue.ts';
import type { Finding } from '../../core/round/types.ts';

export type Row = QueueRow & {
  /** The negative on the open sheet that settles it. */
  covered?: string;
};

export type RoundAnswer = QueueAnswer;

export interface WhyAnswer {
  finding: Finding;
  sentence: string;
  working: Step[];
  season: { day: string; clicks: number; spend: number; orders: number; sales: number }[];
  bids: { day: string; bid: number }[];
  windows: (Sums & { days: number })[];
  relations: {
    adGroup: string;
    kind: string;
    matchType: string | null;
    bid: number | null;
    status: string;
  }[];
  /** Theta of its scope as last steered. */
  theta?: {
    day: string;
    theta: number;
    reason: string;
    expected_acos: number | null;
    in_force: number | null;
  };
}

export type Adjustments = Record<string, Adjustment>;
