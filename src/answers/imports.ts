import type { Day } from '../core/metrics/days.ts';

/** Files that people bring: what they are, how they are laid out, what came of loading them. */

/** The kinds of files that are known (formats). */
export type FileKind =
  | 'targets-daily'
  | 'terms-daily'
  | 'placements-daily'
  | 'campaign-hours'
  | 'products-daily'
  | 'sold-daily'
  | 'ranks-daily'
  | 'products'
  | 'structure'
  | 'goals'
  | 'changes';

/** `percent` is read as it stands (50, 50 %), `share` is kept between 0 and 1 (0.15, 15 %). */
export type ColumnType = 'date' | 'count' | 'money' | 'percent' | 'share' | 'number' | 'text';

export interface Column {
  name: string;
  type: ColumnType;
  required: boolean;
  synonyms: string[];
  /** Nothing in a cell means 0; elsewhere it means that nobody knows. */
  zero: boolean;
}

/** Column name to the place of the header that feeds it; null: not in the file. */
export type Mapping = Record<string, number | null>;

export type DateOrder = 'ymd' | 'dmy' | 'mdy';
export type DecimalMark = '.' | ',';
export type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252';

/** How a file is laid out. */
export interface Layout {
  format: 'csv' | 'xlsx' | 'jsonl';
  encoding: Encoding;
  /** Of a CSV. */
  delimiter: ',' | ';' | '\t';
  /** Of a workbook: the sheet that is meant. */
  sheet: string | null;
  /** Rows above the header; -1 where fields name themselves and no row is a header. */
  titleRows: number;
  headers: string[];
}

/** What a file holds, by a look at its beginning. */
export interface Inspection extends Layout {
  kind: FileKind | null;
  mapping: Mapping;
  /** First values of every header. */
  samples: string[][];
  /** More than one: ask. */
  dateOrders: DateOrder[];
  decimalMarks: DecimalMark[];
  /** Required columns that no header feeds. */
  missing: string[];
  bytes: number;
  /** The sheets of a workbook with the kinds they seem to hold; empty for other files. */
  sheets: { name: string; kind: FileKind | null }[];
}

/** A file that was sent, to be looked at before it is loaded. */
export interface Preview extends Inspection {
  uploadId: string;
  fileName: string;
  /** The mapping is the one that was chosen last time for these headers. */
  remembered: boolean;
}

/** What a data package says of itself. */
export interface PackageAbout {
  title: string;
  currency: string | null;
  /** The account it was made of; null for packages from elsewhere. */
  origin: string | null;
  resources: { name: string; path: string; kind: FileKind | 'account'; hash: string | null }[];
}

/** A data package: its parts are known, there is nothing to ask. */
export interface PackagePreview extends PackageAbout {
  format: 'package';
  uploadId: string;
  fileName: string;
}

/** What is to be loaded, as it was chosen. */
export interface LoadCall {
  uploadId: string;
  kind: FileKind;
  /** Of a workbook. */
  sheet?: string;
  mapping?: Mapping;
  dateOrder?: DateOrder;
  decimalMark?: DecimalMark;
}

/** A row that could not be loaded: where it stands and why. Rows are counted as a spreadsheet does, from 1. */
export interface Rejected {
  row: number;
  column: string;
  value: string;
  reason: string;
  cells: string[];
}

/** What came of a load: read = loaded + rejected + totals. */
export interface LoadResult {
  importId: number;
  kind: FileKind;
  fileName: string;
  rowsRead: number;
  rowsLoaded: number;
  rowsRejected: number;
  rowsTotals: number;
  firstDay: Day | null;
  lastDay: Day | null;
  daysReplaced: number;
  rejectedFile: string | null;
  /** The first rejected rows, to show at once. */
  rejected: Rejected[];
}

/** Goals that a file had changed: back as they were, and those that somebody changed since. */
export interface TakenBack {
  back: number;
  stays: number;
}

/** What came of a data package, part by part. */
export interface PackageResult {
  parts: {
    name: string;
    rowsRead: number;
    rowsLoaded: number;
    rowsRejected: number;
    rowsTotals: number;
  }[];
}

/** What was loaded of late, and how fresh each kind of report is. Times as ISO 8601. */
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
    first_day: Day | null;
    last_day: Day | null;
    days_replaced: number;
    rejected_file: string | null;
    finished_at: string;
    /** What it changed can be brought back to what it was. */
    can_take_back: boolean;
    is_taken_back: boolean;
  }[];
  freshness: { kind: string; first_day: Day; last_day: Day; days: number; loaded_at: string }[];
  kinds: Record<FileKind, readonly Column[]>;
}
