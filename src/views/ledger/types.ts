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
  effect: { spend: number; sales: number; orders: number; salesSpread: number };
  lines: LedgerLine[];
}
