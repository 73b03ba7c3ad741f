import type { TotalEffect } from '../../core/changes/lines.ts';
import type { SheetLineAnswer } from '../../ui/shell/data.ts';

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

export interface SumsOfLine {
  clicks: number;
  spend: number;
  orders: number;
  sales: number;
}

export type LedgerLine = SheetLineAnswer & { before: SumsOfLine | null; after: SumsOfLine | null };

export interface SheetDetail {
  sheet: SheetSummary;
  windows: { before: { from: string; to: string }; after: { from: string; to: string } } | null;
  days: number;
  effect: TotalEffect;
  lines: LedgerLine[];
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
