export interface KindColumn {
  name: string;
  type: string;
  required: boolean;
}

export interface ImportsAnswer {
  imports: {
    import_id: number;
    source: string;
    kind: string;
    file_name: string;
    rows_read: number;
    rows_loaded: number;
    rows_rejected: number;
    rows_totals: number;
    first_day: string | null;
    last_day: string | null;
    days_replaced: number;
    rejected_file: string | null;
    finished_at: string;
  }[];
  freshness: { kind: string; first_day: string; last_day: string; days: number; loaded_at: string }[];
  kinds: Record<string, KindColumn[]>;
}

export interface Preview {
  format: 'csv' | 'xlsx' | 'jsonl';
  sheet: string | null;
  sheets: { name: string; kind: string | null }[];
  uploadId: string;
  fileName: string;
  kind: string | null;
  encoding: string;
  delimiter: string;
  titleRows: number;
  headers: string[];
  samples: string[][];
  mapping: Record<string, number | null>;
  dateOrders: string[];
  decimalMarks: string[];
  missing: string[];
  bytes: number;
  remembered: boolean;
}

/** A data package: its parts are known, there is nothing to ask. */
export interface PackagePreview {
  format: 'package';
  uploadId: string;
  fileName: string;
  title: string;
  resources: { name: string; path: string; kind: string }[];
}

export interface PackageResult {
  parts: { name: string; rowsRead: number; rowsLoaded: number; rowsRejected: number; rowsTotals: number }[];
}

export interface LoadResult {
  rowsRead: number;
  rowsLoaded: number;
  rowsRejected: number;
  rowsTotals: number;
  firstDay: string | null;
  lastDay: string | null;
  daysReplaced: number;
  rejectedFile: string | null;
  rejected: { row: number; column: string; value: string; reason: string }[];
}

export interface LoadChoices {
  uploadId: string;
  kind: string;
  sheet?: string;
  mapping: Record<string, number | null>;
  dateOrder?: string;
  decimalMark?: string;
}
