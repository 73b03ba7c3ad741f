import type { SetGoal, GoalScope } from '../core/goals/goals.ts';
import type { SteeringOutcome } from '../core/goals/theta.ts';
import type { Economics } from '../core/metrics/figures.ts';
import type { Day } from '../core/metrics/days.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { Comparison, ComparedRow } from '../core/round/compare.ts';
import type { Outlook } from '../core/round/what-if.ts';

/** The goals of an account, and what may have one of its own. */
export interface GoalsAnswer {
  goals: GoalAnswer[];
  products: GoalProduct[];
  /** The last day that was told; null before there are figures. */
  today: Day | null;
}

export interface GoalProduct {
  sku: string;
  title: string;
  stock: number | null;
  margin: number | null;
  /** Costs of which some were told; null where none were. */
  economics: Partial<Economics> & Pick<Economics, 'price'>;
  /** CPC of its last 30 settled days, micros; null without a click. */
  cpc: Micros | null;
}

/** What is set of a goal; null: what the next wider scope says holds. */
export type GoalValues = Required<Omit<SetGoal, 'scope' | 'key' | 'theta' | 'thetaTarget'>>;

export interface GoalAnswer extends GoalValues {
  scope: GoalScope;
  /** SKU, or number of the campaign or ad group; empty for the account. */
  key: string;
  /** Of a campaign or an ad group: its name, its campaign's, and what it advertises. */
  name: string | null;
  campaignId: string | null;
  campaign: string | null;
  sku: string | null;
  /** Null before the first round of steering, and where it has no target of its own. */
  theta: ThetaAnswer | null;
}

/** Theta of a scope as it stands, and why. */
export interface ThetaAnswer {
  value: number;
  /** The target it was steered to. */
  target: number;
  day: Day;
  reason: string;
  outcome: SteeringOutcome | 'start';
  expectedAcos: number | null;
  inForce: number | null;
}

/** A campaign or an ad group that may have a goal of its own. */
export interface GoalPlace {
  scope: 'campaign' | 'ad_group';
  key: string;
  name: string;
  campaignId: string;
  campaign: string;
  sku: string | null;
}

/** The account under its goals as they are, and under another. */
export interface WhatIfAnswer {
  kept: Outlook;
  moved: Outlook;
  milliseconds: number;
}

export interface MethodsAnswer {
  totals: Comparison['totals'];
  count: number;
  rows: ComparedRow[];
  milliseconds: number;
}

/** A month as it is planned, of the account (sku empty) or of a product; null: not planned. Money in micros. */
export interface PlanRow {
  /** First day of the month. */
  month: Day;
  sku: string;
  spend: Micros | null;
  sales: Micros | null;
  revenue: Micros | null;
}

/** What a month has brought so far. */
export interface PlanMonth extends PlanRow {
  done: { spend: Micros; sales: Micros; revenue: Micros | null };
}

/** What a file would change of the plan, and what is wrong with rows of it. */
export interface ReadPlan {
  rows: { before: PlanRow; row: PlanRow }[];
  problems: { row: number; column: string; message: string }[];
}
