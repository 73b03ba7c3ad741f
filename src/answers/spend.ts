import type { BudgetRow } from '../core/budgets/rows.ts';
import type { BudgetGroup, BudgetLimit } from '../core/budgets/rules.ts';
import type { Day } from '../core/metrics/days.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { Condition, Met } from '../core/placements/conditions.ts';
import type { PlacedRow } from '../core/placements/findings.ts';

/** What endpoints of Spend answer. */

/** Campaigns by placement, those with a finding first. */
export interface PlacementsAnswer {
  /** Per cent. */
  maximumModifier: number;
  /** Campaigns whose modifiers are on the open sheet, and those of which only bids are. */
  onSheet: string[];
  bidsOnSheet: string[];
  /** Campaigns whose strategies are. */
  strategiesOnSheet: string[];
  campaigns: PlacedRow[];
}

/** A campaign that a condition of one's own meets. Figures of money in micros. */
export interface MetRow extends Omit<Met, 'figure' | 'ratio'> {
  name: string;
  sku: string | null;
  strategy: string;
  placement: string;
  /** Null: it cost money and sold nothing. */
  figure: number | null;
  ratio: number | null;
  /** Why, in a sentence. */
  sentence: string;
}

/** Conditions of one's own in their order, and what they make of campaigns as days stand. */
export interface ConditionsAnswer {
  conditions: Condition[];
  /** Running campaigns that were clicked. */
  campaigns: number;
  met: MetRow[];
  /** Placements that campaigns have. */
  placements: string[];
  /** Per cent. */
  maximumModifier: number;
  onSheet: string[];
  bidsOnSheet: string[];
}

/** Campaigns by their budgets, those with a finding first, and what shares a total. Money in micros, a day. */
export interface BudgetsAnswer {
  today: Day;
  /** The marketplace's least daily budget. */
  minimumBudget: Micros;
  /** Budgets as the open sheet sets them, by campaign, and campaigns of which bids are on it. */
  onSheet: Record<string, Micros>;
  bidsOnSheet: string[];
  groups: BudgetGroup[];
  limits: BudgetLimit[];
  campaigns: BudgetRow[];
}

/** Best keywords that their campaigns' budgets starve, with what would give each a campaign of its own. */
export interface AloneAnswer {
  found: {
    /** Of the finding, which stands in Round too. */
    key: string;
    campaignId: string;
    sentence: string;
    repair: string;
    loses: string;
    /** Of a week, micros. */
    worth: Micros;
    lines: number;
    isOnSheet: boolean;
  }[];
}

/** A file of budgets as it was read: nothing of it is on the sheet yet. */
export interface ReadBudgets {
  budgets: { campaignId: string; name: string; from: Micros; budget: Micros }[];
  problems: { row: number; column: string; message: string }[];
}
