import type { Day, Window } from '../core/metrics/days.ts';
import type { Sums } from '../core/metrics/figures.ts';

/** What can be changed of an account, and whether a marketplace is connected. */
export interface SettingsAnswer {
  name: string;
  currency: string;
  timeZone: string;
  source: string;
  connected: boolean;
}

/** What the account's ads did on a day. */
export type SeasonDay = Sums & { day: Day };

/** The season strip: 90 days of the account. */
export interface SeasonAnswer {
  account: { name: string; currency: string; source: string; today: Day | null; demo: boolean };
  days: SeasonDay[];
  settledTo: Day | null;
  sent: { day: Day; sheets: number; lines: number }[];
  /** What was noted of these days. */
  notes: { day: Day; toDay: Day; body: string }[];
  /** Trials that were sent: the days that count. */
  trials: { name: string; from: Day; to: Day }[];
  /** Spans that were told as a whole and count where a window holds all of them. */
  summaries: { kind: string; firstDay: Day; lastDay: Day }[];
  /** Null while nothing is loaded. */
  defaultWindow: Window | null;
}

/** A long work as whoever watches it sees it. Times as ISO 8601. */
export interface JobAnswer {
  job_id: string;
  kind: string;
  state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
  progress: Record<string, unknown>;
  result: unknown;
  message: string | null;
  created_at: string;
}
