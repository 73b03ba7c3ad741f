import type { Verdict } from '../core/evidence/verdict.ts';
import type { Day, Window } from '../core/metrics/days.ts';
import type { Sums } from '../core/metrics/figures.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { MemberParts, Parts, SplitFigure } from '../core/movers/split.ts';
import type { Report } from '../core/report/report.ts';
import type { Landing } from '../core/pace/landing.ts';
import type { OutsideChange } from './changes.ts';

/** What endpoints of Today and of the pace answer. Money in micros. */

/** Sums of ads with what the products sold in all; null where no report tells that. */
export interface Standing extends Sums {
  totalSales: Micros | null;
  totalOrders: number | null;
}

/** One product on one day. */
export interface ProductDay extends Standing {
  day: Day;
  sku: string;
}

/** A day of the account; its settling orders and sales are as they were told. */
export interface TodayDay {
  day: Day;
  spend: Micros;
  sales: Micros;
  orders: number;
  totalSales: Micros | null;
}

/** A queue of the round in a line. */
export interface QueueStanding {
  id: string;
  name: string;
  count: number;
  worth: Micros;
  /** What is worth most, in half a line. */
  top: { subject: string; worth: Micros } | null;
}

/** A sheet that was sent: what its scored lines were said to do a week, and what was seen. */
export interface SheetGrade {
  sheetId: number;
  sentOn: Day;
  lines: number;
  /** Lines whose weeks have settled. */
  scored: number;
  said: { spend: Micros; sales: Micros };
  seen: { spend: Micros; sales: Micros };
}

/** A product that runs out at the pace of its last weeks. */
export interface StockRow {
  sku: string;
  title: string;
  stock: number;
  /** Units a day, of all orders. */
  aDay: number;
  /** Null: it lasts for more than a year. */
  runsOutOn: Day | null;
}

export interface TodayAnswer {
  today: Day;
  settledTo: Day;
  window: Window;
  compare: Window;
  goal: { targetAcos: number };
  now: Standing;
  before: Standing;
  days: TodayDay[];
  sheets: SheetGrade[];
  outside: { count: number; changes: OutsideChange[] };
  /** What is new or gone since two weeks ago, and prices that moved. */
  campaigns: { name: string; what: 'began' | 'ended'; day: Day }[];
  prices: { day: Day; sku: string; title: string; before: Micros; after: Micros }[];
  stock: StockRow[];
  /** When each report was last told, and up to which day. */
  reports: { kind: string; lastDay: Day; fetchedOn: Day }[];
  notes: Note[];
}

/** Targets and terms by what is known of them, and their spend in the window. */
export type VerdictCounts = Record<'targets' | 'terms', Record<Verdict, { count: number; spend: Micros }>>;

/** What moved a figure from one period to the other, by its members. */
export interface MovedAnswer {
  figure: SplitFigure;
  by: 'product' | 'campaign' | 'target';
  before: number | null;
  after: number | null;
  parts: Parts;
  count: number;
  members: (MemberParts & { name: string; below: string })[];
}

export interface Note {
  noteId: number;
  day: Day;
  toDay: Day;
  scope: 'account' | 'product' | 'campaign';
  object: string;
  /** What it is about, by its name. */
  name: string;
  body: string;
}

/** Where a month lands, of the account (sku empty) or of a product. */
export interface PaceLine {
  sku: string;
  title: string;
  spend: PaceMeasure;
  sales: PaceMeasure;
  /** Null where no report tells what was sold in all. */
  revenue: PaceMeasure | null;
}

export interface PaceMeasure extends Landing {
  /** What is planned for the month; null: nothing. */
  plan: Micros | null;
  /** What the open sheet is said to change in the days that are left; null where lines are not told by product. */
  sheet: Micros | null;
  /** What each day of the month brought, settling in. */
  days: Micros[];
}

/** Money that ends: a campaign's last day, its lifetime budget, or none of both though its season has one. */
export interface EndRow {
  campaignId: string;
  name: string;
  what: 'ends' | 'ended' | 'lifetime';
  endDate: Day | null;
  /** Of a lifetime budget: what it is, what is spent, and the day on which it is gone. */
  budget: Micros | null;
  spent: Micros | null;
  runsDryOn: Day | null;
  aDay: Micros;
}

export interface PaceAnswer {
  today: Day;
  month: { first: Day; last: Day };
  /** The last day that is told. */
  knownTo: Day;
  lines: PaceLine[];
  ends: EndRow[];
  /** Campaigns that run without an end date. */
  endless: number;
  wallet: { balance: Micros; runsDryOn: Day | null } | null;
}

/** A report in the list of them. */
export interface ReportSummary {
  reportId: number;
  from: Day;
  to: Day;
  madeOn: Day;
  words: string;
}

export interface ReportAnswer extends Report {
  /** Its page without the frame, as HTML. */
  body: string;
  /** There is a browser here that prints it as PDF. */
  canPrint: boolean;
}
