import type { Day } from '../core/metrics/days.ts';
import type { Comparison } from '../core/trials/compare.ts';
import type { HarmLook } from '../core/trials/harm.ts';
import type { TrialPlan, TrialState, TrialVerdict } from '../core/trials/trials.ts';

/** What endpoints of trials answer. */

export interface TrialRow extends TrialPlan {
  trialId: number;
  state: TrialState;
  sentOn: Day | null;
  /** The last day that counts; null until it is sent. */
  endsOn: Day | null;
  /** Days that have passed of it. */
  passed: number;
  sheetId: number;
  lines: number;
  campaigns: string[];
  /** Campaigns that it is compared with. */
  controls: number;
  compared: Comparison | null;
  harm: HarmLook | null;
  /** Mean organic positions before and since, where they are looked at. */
  rank: { before: number; after: number; fell: boolean } | null;
  verdict: TrialVerdict;
  /** The result in a sentence; empty until there is one. */
  said: string;
}

export interface TrialsAnswer {
  today: Day | null;
  trials: TrialRow[];
}
