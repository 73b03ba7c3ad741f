import type { SumsOfLine } from '../../answers/changes.ts';

export interface SheetSummary {
  sheet_id: number;
  state: 'open' | 'sending' | 'sent';
  created_at: string;
  sent_at: string | null;
  sent_on: string | null;
  lines: number;
  applied: number;
  refused: number;
}

/** Change per week; money in micros. */
export type WeekSums = SumsOfLine;

export interface KindAnswer {
  kind: string;
  count: number;
  inside: number;
  said: WeekSums;
  seen: WeekSums;
  spread: number;
}

export interface ForecastPoint {
  lineId: number;
  sheetId: number;
  kind: string;
  expression: string | null;
  weeks: number;
  toDay: string;
  said: WeekSums;
  seen: WeekSums;
  spread: WeekSums;
  inside: boolean;
}

export interface CheckAnswer {
  day: string;
  rows: number;
  orders: number;
  expected: number;
  logScore: number;
  plainScore: number;
  coverage: number;
  brier: number | null;
  kappa: number;
  kappaCounts: boolean;
  drift: number;
  words: { used: boolean; score: number; plainScore: number; count: number } | null;
}

export interface ForecastAnswer {
  count: number;
  inside: number;
  widening: number;
  kinds: KindAnswer[];
  points: ForecastPoint[];
  checks: CheckAnswer[];
}
