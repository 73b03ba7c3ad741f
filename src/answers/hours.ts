import type { AfterSchedule, RankShift } from '../core/hours/after.ts';
import type { HourGround } from '../core/hours/outcome.ts';
import type { HoursPicture, ScopeMean } from '../core/hours/picture.ts';
import type { HoursRow } from '../core/hours/rows.ts';
import type { Day, Window } from '../core/metrics/days.ts';
import type { Micros } from '../core/metrics/money.ts';

/** What endpoints of Spend's *When* answer. */

/** Campaigns by the time of the week, those with a finding first. */
export interface HoursAnswer {
  /** Whole weeks of settled days; the span is null where no hours are told. */
  weeks: number;
  span: Window | null;
  campaigns: HoursRow[];
  /** Schedules as the open sheet sets them, by campaign; empty for none. */
  onSheet: Record<string, string>;
}

/** What a weekday brought in all, organic orders included. */
export interface TotalWeekday {
  /** How many of it are known. */
  days: number;
  /** Of one of them. */
  orders: number;
  sales: Micros;
  /** Before ads; null where costs of a product are not known. */
  profit: Micros | null;
}

/** A scope at every time of the week. */
export interface ScopeAnswer {
  name: string;
  sku: string | null;
  weeks: number;
  span: Window | null;
  mean: ScopeMean;
  picture: HoursPicture;
  totals: TotalWeekday[];
  /** Of a campaign: what its schedule is weighed by. */
  ground: HourGround | null;
}

/** What the last change of a campaign's schedule did. */
export interface AfterAnswer {
  /** Null where none is known. */
  change: { from: string; to: string; day: Day } | null;
  after: AfterSchedule | null;
  /** Campaigns that it is compared with. */
  controls: number;
  /** Of its product: positions of keywords, and organic orders a week. */
  rank: RankShift | null;
  organic: { before: number; after: number } | null;
}

/** A file of schedules as it was read: nothing of it is on the sheet yet. Schedules as they are written. */
export interface ReadSchedules {
  schedules: { campaignId: string; name: string; from: string; schedule: string }[];
  problems: { row: number; column: string; message: string }[];
}
