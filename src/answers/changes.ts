import type { Outcome } from '../core/effect/outcome.ts';
import type { OverGoal } from '../core/goals/over.ts';
import type { Entity } from '../core/changes/fields.ts';
import type { LineGroup } from '../core/changes/sheet.ts';
import type { TotalEffect } from '../core/changes/lines.ts';
import type { Effect } from '../core/effect/types.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { Day, Window } from '../core/metrics/days.ts';

/** What endpoints of the sheet and the ledger answer. Money in micros; ids of ours as text where they are of objects. */

/** A campaign in which a click may cost over twice its bid once the sheet is sent, where it does most; money in micros. */
export interface UnusualClicks {
  campaignId: string;
  name: string;
  /** Empty: where no modifier is set. */
  placement: string;
  bid: Micros;
  before: Micros;
  after: Micros;
}

/** The open sheet in figures. */
export interface OpenSheet {
  sheetId: number;
  /** Counts the changes of the sheet. */
  version: number;
  lines: number;
  conflicts: number;
  overtaken: number;
  effect: TotalEffect;
  /** Lines that change what runs and of which nothing is forecast. */
  unforecast: number;
  /** What campaigns that it makes may spend a day, and in all their days, micros: how much of it they will is not forecast. */
  newBudgets: { daily: number; lifetime: number };
  /** A week of the account as it runs; null while no day has settled. */
  week: { spend: number; sales: number } | null;
  /** Scopes that its lines together would put over their goal, the furthest over it first. */
  overGoal: (OverGoal & { name: string })[];
  /** Campaigns in which bids, modifiers and strategies multiply into what is hardly meant; confirmed when it is sent. */
  unusual: UnusualClicks[];
}

export interface SheetLine {
  line_id: number;
  /** Counts its edits. */
  version: number;
  group_key: string;
  finding_key: string | null;
  action: 'create' | 'update' | 'archive';
  entity: Entity;
  campaign_id: string;
  campaign: string;
  ad_group_id: string | null;
  ad_group: string | null;
  field: string;
  old_value: string | null;
  new_value: string | null;
  /** The live value of what it changes. */
  now_value: string | null;
  target_kind: string | null;
  match_type: string | null;
  expression: string | null;
  reason: string;
  proposed_by: string;
  effect: Effect | null;
  state: 'open' | 'removed' | 'sending' | 'applied' | 'refused';
  message: string | null;
  code: string | null;
  /** Other open lines set the same field to something else. */
  conflict: boolean;
  /** The live value is no longer the old value. */
  overtaken: boolean;
  /** Its group is a harvest: it comes and goes with all of that. */
  harvest: boolean;
}

/** What a page of a sheet shows one below the other. */
export type PageEntry<Line = SheetLine> = { head: LineGroup } | { line: Line };

export interface LinePage<Line = SheetLine> {
  /** The sheet's changes so far: pages of one version belong together. */
  version: number;
  /** Entries of the view in all: lines, and heads of groups. */
  total: number;
  /** Lines of the view in all. */
  lines: number;
  entries: PageEntry<Line>[];
}

/** Numbers of the lines that are meant together. */
export interface LineNumbers {
  version: number;
  lineIds: number[];
}

export interface SumsOfLine {
  clicks: number;
  spend: number;
  orders: number;
  sales: number;
}

export interface SentLine extends SheetLine {
  before: SumsOfLine | null;
  after: SumsOfLine | null;
  /** Whether it worked; null for what touches no term or target, or was not applied. */
  outcome: Outcome | null;
}

export interface SheetDetail {
  sheet: { sheet_id: number; state: 'open' | 'held' | 'stopped' | 'sending' | 'sent'; sent_on: Day | null };
  counts: { lines: number; applied: number; refused: number };
  /** Settled days of equal number before and after it was sent; null while there are none. */
  windows: { before: Window; after: Window } | null;
  days: number;
}

/** What all applied lines of a sheet touched. */
export interface SheetEffect {
  /** Days on each side. */
  days: number;
  /** Applied lines that were changed again before these days were over: they are not in the sums. */
  overtaken: number;
  before: SumsOfLine;
  after: SumsOfLine;
  outcome: Outcome;
}

/** A sheet in the list of the ledger. Times as ISO 8601. */
export interface SheetSummary {
  sheet_id: number;
  state: 'open' | 'held' | 'stopped' | 'sending' | 'sent';
  created_at: string;
  sent_at: string | null;
  sent_on: Day | null;
  lines: number;
  applied: number;
  refused: number;
}

/** What somebody changed at the marketplace and not by a sheet; values as lines write them. */
export interface OutsideChange {
  /** On which it was seen. */
  day: string;
  entity: 'campaign' | 'ad_group' | 'target' | 'placement_modifier';
  objectId: string;
  /** Of a placement's modifier: the placement. */
  field: string;
  oldValue: string;
  newValue: string;
  campaign: string;
  adGroup: string | null;
  /** Of a target. */
  expression: string | null;
  matchType: string | null;
  targetKind: string | null;
}

export interface OutsideAnswer {
  count: number;
  /** The newest ones. */
  changes: OutsideChange[];
}
